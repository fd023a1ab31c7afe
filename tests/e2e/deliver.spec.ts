import { execFileSync } from "node:child_process";
import { existsSync } from "node:fs";
import { readFile } from "node:fs/promises";
import type { Page } from "@playwright/test";
import { dB, peakOf } from "../core/analysis";
import { expect, expectAccessible, projectWithClip, saved, test, toneFile, type } from "./wring";

async function goDeliver(page: Page): Promise<void> {
  await saved(page);
  await page.getByRole("link", { name: "Deliver", exact: true }).click();
  await expect(page.getByRole("button", { name: /^Deliver 1 file/ })).toBeVisible();
}

/** Saves a file that was delivered. Returns where it lies. */
async function savedFile(page: Page, name: string): Promise<string> {
  const waiting = page.waitForEvent("download");
  await page.getByRole("link", { name: `Save ${name}` }).click();
  const download = await waiting;
  expect(download.suggestedFilename()).toBe(name);
  return download.path();
}

test("the mix is delivered at a level, kept over a reload, and holds what it says", async ({ page }) => {
  await projectWithClip(page, "Tone for all", toneFile("Tone.wav", -20));
  await saved(page);
  // Whoever looks for it under Export is shown the way.
  await page.keyboard.press("e");
  await page.getByRole("dialog").getByRole("link", { name: "Deliver" }).click();
  await expect(page.getByRole("button", { name: /^Deliver 1 file/ })).toBeVisible();
  await expect(page.getByRole("dialog")).toHaveCount(0);
  await page.getByLabel("Bring to").selectOption("integrated loudness");
  await type(page, "Level", "-14");
  await type(page, "Ceiling", "-3");
  await page.getByRole("button", { name: "Deliver 1 file" }).click();
  const files = page.getByRole("list", { name: "Files" });
  await expect(files).toContainText("-14.0 LUFS");
  await expect(files).toContainText("gain +6.0 dB");
  await page.reload();
  await expect(files).toContainText("Tone for all mix.wav");
  // The settings are remembered as well.
  await expect(page.getByRole("textbox", { name: "Level", exact: true })).toHaveValue("-14.0 LUFS");
  await expectAccessible(page);
  const bytes = await readFile(await savedFile(page, "Tone for all mix.wav"));
  const data = bytes.indexOf("data", 60) + 8;
  const left = Float32Array.from(
    { length: 48000 },
    (_, i) => bytes.readIntLE(data + 6 * (i + 4800), 3) / 2 ** 23
  );
  expect(dB(peakOf(left))).toBeCloseTo(-14, 1);
});

test("sections become files by keyboard, a preset is saved and comes back, a wrong name is told", async ({
  page
}) => {
  test.skip(!existsSync("/usr/bin/ffmpeg"), "ffmpeg is not installed");
  await projectWithClip(page, "Parts", toneFile("Parts tone.wav", -20, 6));
  for (const [name, from, to] of [
    ["One", "0:00", "0:02"],
    ["Two", "0:02", "0:05"]
  ] as const) {
    await type(page, "Range from", from);
    await type(page, "Range to", to);
    await page.keyboard.press("Control+k");
    const action = page.getByRole("combobox", { name: "Action" });
    await action.fill("name the range");
    await action.press("Enter");
    await expect(page.getByRole("dialog").getByRole("textbox")).toBeFocused();
    await page.keyboard.type(name);
    await page.keyboard.press("Enter");
    await expect(page.getByRole("button", { name, exact: true })).toBeVisible();
  }
  await goDeliver(page);
  await page.getByRole("radio", { name: /^The range/ }).focus();
  await page.keyboard.press("ArrowDown");
  await expect(page.getByRole("radio", { name: "Sections, 2" })).toBeChecked();
  await page.getByRole("combobox", { name: "Format", exact: true }).selectOption("MP3");
  const names = page.getByRole("textbox", { name: "Names of the files" });
  await names.fill("{number} {colour}");
  await expect(page.getByText('"{colour}" is no field of a name').first()).toBeVisible();
  await expect(page.getByRole("button", { name: "Deliver 2 files" })).toBeDisabled();
  await names.fill("{number} {name}");
  await expect(page.getByLabel("Names that come of it")).toHaveText("01 One.mp3 · 02 Two.mp3");
  const date = page.getByRole("textbox", { name: "Date", exact: true });
  await date.fill("spring");
  await expect(page.getByText("Players read 2031, 2031-04 or 2031-04-09")).toBeVisible();
  await date.fill("2031-04");
  await expect(page.getByText("Players read 2031")).toHaveCount(0);
  await page.getByRole("textbox", { name: "Save these settings as" }).fill("Weekly parts");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByText('"Weekly parts" is saved')).toBeVisible();

  await page.getByRole("button", { name: "Deliver 2 files" }).press("Enter");
  const file = await savedFile(page, "02 Two.mp3");
  const probed = execFileSync("ffprobe", [
    "-v",
    "error",
    "-of",
    "json",
    "-show_streams",
    "-show_chapters",
    file
  ]);
  const { streams, chapters } = JSON.parse(probed.toString()) as {
    streams: { codec_name: string; duration: string }[];
    chapters: { tags: { title: string } }[];
  };
  expect(streams[0]?.codec_name).toBe("mp3");
  expect(Number(streams[0]?.duration)).toBeCloseTo(3, 1);
  expect(chapters.map((c) => c.tags.title)).toEqual(["Two"]);

  await names.fill("{project}");
  await page.getByRole("combobox", { name: "Preset" }).click();
  await page.getByRole("option", { name: "Weekly parts" }).click();
  await expect(names).toHaveValue("{number} {name}");
  await page.getByRole("button", { name: "Delete preset Weekly parts" }).click();
  await expect(page.getByRole("button", { name: "Delete preset Weekly parts" })).toBeHidden();
});
