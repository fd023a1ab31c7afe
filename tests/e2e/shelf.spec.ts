import { execFileSync } from "node:child_process";
import { existsSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { bextChunk } from "../../src/lib/core/formats/bext";
import { markerChunks } from "../../src/lib/core/formats/cues";
import type { Chunk } from "../../src/lib/core/formats/wavChunks";
import { wavHeader } from "../../src/lib/core/formats/wavWriter";
import { noise, sine } from "../core/signals";
import { wav16 } from "../core/wavBytes";
import {
  clip,
  expect,
  importFiles,
  newProject,
  place,
  recording,
  saved,
  shelf,
  starts,
  test,
  type,
  undo
} from "./wring";

const folder = mkdtempSync(path.join(tmpdir(), "wring-shelf-"));

/** Two seconds of noise with these chunks before the samples. */
function withChunks(seed: number, chunks: readonly Chunk[]): Uint8Array {
  const head = wavHeader("int16", 1, 48000, 96000, chunks);
  const bytes = new Uint8Array(head.length + 192000);
  bytes.set(head);
  const view = new DataView(bytes.buffer);
  noise(96000, 0.2, seed).forEach((x, i) => view.setInt16(head.length + 2 * i, Math.round(x * 32767), true));
  return bytes;
}

const marked = () =>
  withChunks(
    71,
    markerChunks([
      { start: 24000, length: 0, name: "Gull" },
      { start: 48000, length: 24000, name: "Foghorn" }
    ])
  );

/** Recorded at so many seconds of the day. */
const timed = (seed: number, seconds: number) =>
  withChunks(seed, [
    bextChunk({
      ...{ description: "", originator: "Harbour", originatorReference: "", date: "2031-04-09" },
      ...{ time: "10:00:00", timeReference: seconds * 48000, loudness: null, codingHistory: "" }
    })
  ]);

test.beforeAll(() => {
  const deep = path.join(folder, "Ferry", "Day 1");
  mkdirSync(deep, { recursive: true });
  writeFileSync(path.join(deep, "Deck.wav"), wav16(sine(300, -20, 48000)));
  writeFileSync(path.join(deep, "Deck again.wav"), wav16(sine(300, -20, 48000)));
  writeFileSync(path.join(folder, "Ferry", "Pier.wav"), wav16(sine(500, -12, 144000)));
  writeFileSync(path.join(folder, "Ferry", "Horn.wav"), marked());
  writeFileSync(path.join(folder, "Ferry", "torn.mp3"), noise(2000, 0.5, 3));
  writeFileSync(path.join(folder, "Ferry", "read me.txt"), "Not sound.");
});

test.afterAll(() => rmSync(folder, { recursive: true, force: true }));

test("a folder comes in with its folders, a row for each file; what is bad or the same says so, the rest goes on", async ({
  page
}) => {
  await newProject(page, "A folder");
  await page.getByLabel("Folder to import").setInputFiles(path.join(folder, "Ferry"));
  const rows = page.getByRole("region", { name: "Files to import" });
  await expect(page.getByText("One file of the folder holds no sound and was left out.")).toBeVisible();
  await expect(rows.getByRole("status")).toHaveText(/4 of 5 files are done, 1 refused/);
  await expect(rows.getByRole("listitem").filter({ hasText: "here already" })).toContainText(
    /the same as "Deck/
  );
  await expect(rows.getByRole("listitem").filter({ hasText: "torn.mp3" })).toContainText("refused");
  await expect(page.getByRole("button", { name: "Folder Ferry/Day 1, 1 recording" })).toBeVisible();
  await expect(page.getByRole("button", { name: "Folder Ferry, 2 recordings" })).toBeVisible();
  // Rows of what came in well go after 8 s by themselves: not beside one that was refused and may not have been read.
  await page.waitForTimeout(9000);
  await expect(rows.getByRole("listitem")).toHaveCount(5);
  await rows.getByRole("button", { name: "Close" }).click();
  await expect(rows).toBeHidden();
  await page.reload();
  await expect(recording(page, "Pier")).toContainText("0:03.0 mono 48k -15.7 LUFS");
  await page.getByRole("button", { name: /^Folder Ferry, / }).press("Enter");
  await expect(recording(page, "Pier")).toBeHidden();
});

test("of a long folder some are shown at first, more when asked for, and all are found by typing", async ({
  page
}) => {
  const many = path.join(folder, "Takes");
  mkdirSync(many);
  for (let i = 1; i <= 64; i++)
    writeFileSync(path.join(many, `Take ${i}.wav`), wav16(sine(100 + i, -20, 2400)));
  await newProject(page, "Long");
  await page.getByLabel("Folder to import").setInputFiles(many);
  await expect(page.getByText("64 of 64 files are done")).toBeVisible({ timeout: 60000 });
  const aside = page.getByRole("complementary", { name: "Shelf" });
  const takes = aside.getByRole("group", { name: /^Take \d+$/ });
  await expect(takes).toHaveCount(60);
  expect(await takes.evaluateAll((all) => all.map((one) => one.getAttribute("aria-label")))).toEqual(
    Array.from({ length: 60 }, (_, i) => `Take ${i + 1}`)
  );
  await aside.getByRole("searchbox").fill("take 64");
  await expect(takes).toHaveCount(1);
  await aside.getByRole("searchbox").fill("");
  const more = aside.getByRole("button", { name: "Show more: 4 are left" });
  await more.press("Enter");
  await expect(takes).toHaveCount(64);
  await expect(more).toBeHidden();
});

test("the shelf plays, renames, labels and finds; markers become sections", async ({ page }) => {
  await newProject(page, "Shelf");
  await page.getByLabel("Folder to import").setInputFiles(path.join(folder, "Ferry"));
  await expect(recording(page, "Horn")).toBeVisible();
  await expect(page.getByRole("region", { name: "Files to import" }).getByRole("status")).toContainText(
    "1 refused"
  );
  await page.getByRole("button", { name: "Play Pier" }).click();
  await expect(page.getByRole("button", { name: "Stop Pier" })).toBeVisible();
  await page.getByRole("button", { name: "Stop Pier" }).click();
  await expect(page.getByRole("button", { name: "Play Pier" })).toBeVisible();

  await recording(page, "Pier").click({ button: "right" });
  await page.getByRole("menuitem", { name: "Rename the recording…" }).click();
  await page.getByRole("dialog").getByRole("textbox").fill("Quay, west");
  await page.getByRole("button", { name: "Rename", exact: true }).click();
  await expect(recording(page, "Quay, west")).toBeVisible();
  await recording(page, "Quay, west").click({ button: "right" });
  await page.getByRole("menuitem", { name: "Label the recording…" }).click();
  await page.getByRole("dialog").getByRole("textbox").fill("keeper, calm");
  await page.getByRole("button", { name: "Label", exact: true }).click();
  await expect(recording(page, "Quay, west")).toContainText("keeper · calm");
  await saved(page);
  await page.reload();
  await expect(recording(page, "Quay, west")).toContainText("keeper · calm");

  await place(page, "Horn");
  await clip(page, "Horn").click({ button: "right" });
  await page.getByRole("menuitem", { name: "Make sections of the recording's markers" }).click();
  await expect(page.getByRole("button", { name: "Undo: sections of Horn" })).toBeVisible();
  await expect(page.getByRole("button", { name: "Gull", exact: true })).toBeVisible();
  await type(page, "Range from", "0");
  await shelf(page, true);
  await recording(page, "Horn").hover();
  await page.getByRole("button", { name: "About Horn" }).click();
  const about = page.getByRole("dialog", { name: "Horn" });
  await expect(about).toContainText("0:00.500 Gull");
  await expect(about).toContainText("One clip");
});

test("clips are laid where they were recorded: to each other, or at the time of day, which comes into sight", async ({
  page
}) => {
  await newProject(page, "Original times");
  const wav = (name: string, bytes: Uint8Array) => ({
    name,
    mimeType: "audio/wav",
    buffer: Buffer.from(bytes)
  });
  await importFiles(page, wav("Deck.wav", timed(81, 36000)), wav("Mast.wav", timed(82, 36001.5)));
  await place(page, "Deck");
  await type(page, "Position", "0:10");
  await place(page, "Mast");
  await clip(page, "Deck").click();
  await clip(page, "Mast").click({ modifiers: ["Control"] });
  await page.getByRole("button", { name: "Lay out" }).click();
  await page.getByRole("menuitem", { name: "Place at the original time" }).click();
  await expect(page.getByRole("button", { name: "Undo: place 2 clips at their times" })).toBeVisible();
  expect(await starts(page, "Deck")).toBe("0:00.000");
  expect(await starts(page, "Mast")).toBe("0:01.500");
  await undo(page).click();

  await shelf(page, true);
  await recording(page, "Mast").click({ button: "right" });
  await page.getByRole("menuitem", { name: "Add the recording at its original time" }).click();
  const late = page.locator("[data-clip][aria-label*='starts at 10:00:01.500']");
  await expect(late).toBeInViewport();
  await page.keyboard.press("Home");
  await expect(late).toBeHidden();
  await type(page, "Position", "10:00:01.5");
  await expect(late).toBeInViewport();
  await saved(page);
  await page.reload();
  // The whole programme is in sight: ten hours.
  await expect(page.getByText("10:00:04", { exact: true })).toBeVisible();
});

test("a cut file is refused, and taken as far as it can be read when asked for", async ({ page }) => {
  await newProject(page, "Cut");
  const whole = Buffer.from(wav16(sine(700, -18, 96000)));
  const cut = { name: "Cut.wav", mimeType: "audio/wav", buffer: whole.subarray(0, whole.length / 2) };
  await page.getByLabel("Sound files to import").first().setInputFiles(cut);
  const rows = page.getByRole("region", { name: "Files to import" });
  await expect(rows).toContainText("refused");
  await rows.getByRole("button", { name: "Take part: what can be read of Cut.wav" }).press("Enter");
  await expect(recording(page, "Cut")).toContainText("0:01.0 mono 48k");
  await expect(recording(page, "Cut")).toContainText("Taken as far as it can be read");
  await page.reload();
  await expect(recording(page, "Cut")).toContainText("Taken as far as it can be read");
});

test("a project is saved as an archive and opened again from the first page", async ({ page }) => {
  await newProject(page, "Goes away");
  await page
    .getByLabel("Sound files to import")
    .first()
    .setInputFiles({
      name: "Kept.wav",
      mimeType: "audio/wav",
      buffer: Buffer.from(wav16(sine(800, -18, 96000)))
    });
  await place(page, "Kept");
  await saved(page);
  await page.getByRole("link", { name: "Deliver", exact: true }).click();
  const waiting = page.waitForEvent("download");
  await page.getByRole("link", { name: "Save the project archive" }).click();
  const download = await waiting;
  expect(download.suggestedFilename()).toBe("Goes away.wring.zip");
  const file = path.join(folder, "Goes away.wring.zip");
  await download.saveAs(file);
  await page.goto("/", { waitUntil: "networkidle" });
  await page.getByLabel("Project archive or timeline to open").setInputFiles(file);
  await expect(clip(page, "Kept")).toBeVisible();
  await expect(page.getByRole("button", { name: "Undo: add Kept" })).toBeVisible();
});

test("of a video that the browser cannot show a small copy is made, whose picture is that at the playhead", async ({
  page
}) => {
  test.skip(!existsSync("/usr/bin/ffmpeg"), "ffmpeg is not installed");
  const file = path.join(folder, "pier.mov");
  // Dark, then light from the third second on.
  execFileSync("ffmpeg", [
    ...["-v", "error", "-y", "-f", "lavfi", "-i", "color=black:size=320x180:rate=25:duration=6"],
    ...["-f", "lavfi", "-i", "sine=frequency=470:sample_rate=48000:duration=6"],
    ...["-vf", "drawbox=color=white:t=fill:enable='gte(t,3)'"],
    ...["-c:v", "prores_ks", "-profile:v", "0", "-c:a", "pcm_s16le", file]
  ]);
  await newProject(page, "Copied picture");
  await page.getByLabel("Sound files to import").first().setInputFiles(file);
  await expect(recording(page, "pier")).toContainText("video");
  await place(page, "pier");
  const picture = page.getByRole("figure", { name: "Picture of pier" });
  const video = picture.locator("video");
  await expect(video).toHaveAttribute("src", /\/picture$/, { timeout: 60000 });
  /** How light the middle of the picture is, 0 to 255. */
  const light = () =>
    video.evaluate((v: HTMLVideoElement) => {
      const canvas = new OffscreenCanvas(1, 1);
      const context = canvas.getContext("2d");
      context?.drawImage(v, v.videoWidth / 2, v.videoHeight / 2, 1, 1, 0, 0, 1, 1);
      return context?.getImageData(0, 0, 1, 1).data[0] ?? -1;
    });
  await expect.poll(() => video.evaluate((v: HTMLVideoElement) => v.videoWidth)).toBe(320);
  await type(page, "Position", "2.98");
  await expect.poll(light).toBeLessThan(40);
  await type(page, "Position", "3.02");
  await expect.poll(light).toBeGreaterThan(200);
  // Made once: it is there at once when the project is opened again.
  await saved(page);
  await page.reload();
  await expect(video).toHaveAttribute("src", /\/picture$/);
  await expect.poll(() => video.evaluate((v: HTMLVideoElement) => v.videoWidth)).toBe(320);
});

test("the picture of a video follows the playhead, still and playing, and can be put away", async ({
  page
}) => {
  test.skip(!existsSync("/usr/bin/ffmpeg"), "ffmpeg is not installed");
  const file = path.join(folder, "boat.mp4");
  execFileSync("ffmpeg", [
    ...["-v", "error", "-y", "-f", "lavfi", "-i", "testsrc=size=320x180:rate=25:duration=6"],
    ...["-f", "lavfi", "-i", "sine=frequency=420:sample_rate=48000:duration=6"],
    ...["-c:v", "libx264", "-g", "12", "-pix_fmt", "yuv420p", "-c:a", "aac", file]
  ]);
  await newProject(page, "Picture");
  await page.getByLabel("Sound files to import").first().setInputFiles(file);
  await expect(recording(page, "boat")).toContainText("video");
  await place(page, "boat");
  const picture = page.getByRole("figure", { name: "Picture of boat" });
  await expect(picture).toBeVisible();
  const video = picture.locator("video");
  const time = () => video.evaluate((v: HTMLVideoElement) => v.currentTime);
  await type(page, "Position", "2.5");
  // The middle of picture 62, which is shown from 2.48 to 2.52 s.
  await expect.poll(time).toBeCloseTo(2.5, 2);
  await type(page, "Position", "1");
  await expect.poll(time).toBeCloseTo(1.02, 2);
  expect(await video.evaluate((v: HTMLVideoElement) => v.muted && v.videoWidth === 320)).toBe(true);
  await page.getByRole("button", { name: /^Play/ }).click();
  await expect.poll(time).toBeGreaterThan(1.5);
  await page.getByRole("button", { name: /^Stop/ }).click();
  await picture.hover();
  await page.getByRole("button", { name: "Hide the picture" }).click();
  await expect(picture).toBeHidden();
});
