// The bench: several clips at once, treatments copied and taken off, candidates compared, findings mended. By pointer and by key, kept after a reload, heard in the export.
import type { Page } from "@playwright/test";
import { Meter } from "../../src/lib/core/measure/meter";
import { eachBlock } from "../core/signals";
import {
  addStep,
  backTo,
  boxOf,
  clip,
  collect,
  expect,
  expectAccessible,
  exported,
  heard,
  importFiles,
  newProject,
  noiseFile,
  openDemo,
  peakDb,
  place,
  projectWithClip,
  pull,
  saved,
  shelf,
  stepRows,
  tapRing,
  test,
  toneFile,
  type,
  undo
} from "./wring";

const RATE = 48000;

/** Three tones of -20, -26 and -32 dBFS, one after the other on the first track, two seconds each. */
async function threeClips(page: Page, name: string): Promise<string[]> {
  await newProject(page, name);
  const names = ["High", "Middle", "Low"];
  await importFiles(page, ...names.map((one, i) => toneFile(`${one}.wav`, -20 - 6 * i, 2)));
  await shelf(page, true);
  // Each import is an edit of its own: all of them come first.
  for (const one of names) await expect(page.getByRole("group", { name: one, exact: true })).toBeVisible();
  await saved(page);
  for (const [i, one] of names.entries()) {
    await type(page, "Position", `0:0${2 * i}`);
    await place(page, one);
  }
  await page.getByRole("button", { name: "Show the whole programme" }).click();
  return names;
}

async function chooseAll(page: Page, names: readonly string[]): Promise<void> {
  for (const [i, name] of names.entries())
    await clip(page, name).click(i === 0 ? {} : { modifiers: ["Control"] });
}

test("an edit on several clips writes to all of them: differences are mixed, one step takes it back", async ({
  page
}) => {
  const names = await threeClips(page, "Several");
  await clip(page, "High").click();
  await addStep(page, "ga");
  await type(page, "Gain", "-6");
  await chooseAll(page, names);
  await expect(page.getByRole("heading", { name: "Gain" })).toBeVisible();
  await expect(stepRows(page).first()).toContainText("in 1 of 3");
  await addStep(page, "tone");
  await expect(stepRows(page)).toHaveCount(2);
  // One clip is set otherwise: then they differ, and say so.
  await clip(page, "Low").click();
  await page.getByRole("button", { name: /^1 Tone/ }).click();
  await type(page, "Bass", "3");
  await chooseAll(page, names);
  await page.getByRole("button", { name: /Tone mixed/ }).click();
  await expect(page.getByRole("textbox", { name: "Bass", exact: true })).toHaveValue("mixed");
  await type(page, "Bass", "-2");
  await expect(page.getByRole("textbox", { name: "Bass", exact: true })).toHaveValue("-2.0 dB");
  await expect(page.getByRole("button", { name: /Undo: Tone: bass in 3 clips/ })).toBeVisible();
  await page.getByRole("button", { name: /^Undo: Tone/ }).click();
  await expect(page.getByRole("textbox", { name: "Bass", exact: true })).toHaveValue("mixed");

  // Gain for all: by key, on all clips, in the export.
  await page.getByRole("button", { name: /^1 Gain/ }).focus();
  await page.keyboard.press("Delete");
  await page.getByRole("button", { name: /Tone mixed/ }).focus();
  await page.keyboard.press("Delete");
  await addStep(page, "ga");
  await type(page, "Gain", "-10");
  await saved(page);
  await page.reload();
  for (const name of names)
    await expect(clip(page, name)).toHaveAccessibleName(/1 step, live \(level and dynamics\)/);
  const { left } = await exported(page);
  [-30, -36, -42].forEach((level, i) => expect(peakDb(left, 2 * i + 0.2, 2 * i + 1.8)).toBeCloseTo(level, 1));

  // Their step is heard from renders when that is so in all of them.
  await clip(page, names[0]).click();
  await page.keyboard.press("r");
  await page.getByRole("button", { name: "Render", exact: true }).click();
  await expect(clip(page, names[0])).toHaveAccessibleName(/1 step, rendered/);
  await expect(stepRows(page).first()).toContainText("rendered");
  await chooseAll(page, names);
  await expect(stepRows(page).first()).toContainText("live");
  await page.evaluate(() => document.activeElement instanceof HTMLElement && document.activeElement.blur());
  await page.keyboard.press("r");
  await page.getByRole("button", { name: "Render", exact: true }).click();
  for (const name of names) await expect(clip(page, name)).toHaveAccessibleName(/1 step, rendered/);
  await expect(stepRows(page).first()).toContainText("rendered");
});

test("one chain is copied to three clips, its EQ alone to a fourth, and all is taken off again", async ({
  page
}) => {
  const names = await threeClips(page, "Copied");
  await importFiles(page, toneFile("Fourth.wav", -23, 2));
  await type(page, "Position", "0:06");
  await place(page, "Fourth");
  await importFiles(page, noiseFile("Source.wav", 5, 2));
  await type(page, "Position", "0:08");
  await place(page, "Source");
  await page.getByRole("button", { name: "Show the whole programme" }).click();
  const untreated = (await exported(page)).left;

  await clip(page, "Source").click();
  await addStep(page, "ga");
  await type(page, "Gain", "-6");
  await addStep(page, "para");
  await page.locator("label").filter({ hasText: "Band 2, on" }).click();
  await type(page, "Band 2, frequency", "997");
  await type(page, "Band 2, gain", "-12");
  await page.keyboard.press("Escape");
  await clip(page, "Source").click();
  await page.keyboard.press("y");
  await expect(page.getByText(/treatment of Source is copied: 2 steps/)).toBeVisible();

  await chooseAll(page, names);
  await page.keyboard.press("u");
  await expectAccessible(page, "[role=dialog], dialog");
  await page.getByRole("button", { name: "Paste to 3 clips" }).click();
  await clip(page, "Fourth").click();
  await page.keyboard.press("u");
  await page.locator("label").filter({ hasText: "1 Gain" }).click();
  await page.getByRole("button", { name: "Paste to Fourth" }).click();
  await expect(stepRows(page)).toHaveCount(1);
  await saved(page);
  await page.reload();
  const { left } = await exported(page);
  [-20, -26, -32].forEach((level, i) =>
    expect(peakDb(left, 2 * i + 0.5, 2 * i + 1.8)).toBeCloseTo(level - 18, 0)
  );
  expect(peakDb(left, 6.5, 7.8)).toBeCloseTo(-35, 0);

  await chooseAll(page, [...names, "Fourth", "Source"]);
  await page.keyboard.press("Shift+U");
  await expect(page.getByRole("dialog")).toContainText("Take treatment off 5 clips");
  await page.getByRole("button", { name: "Take off", exact: true }).click();
  await expect(stepRows(page)).toHaveCount(0);
  await saved(page);
  const bare = (await exported(page)).left;
  expect(bare.length).toBe(untreated.length);
  expect(bare.every((v, i) => v === untreated[i])).toBe(true);

  // What was copied goes to another project as well.
  await projectWithClip(page, "Copied elsewhere", toneFile("Elsewhere.wav", -21, 2));
  await clip(page, "Elsewhere").focus();
  await page.keyboard.press("u");
  await page.getByRole("button", { name: "Paste to Elsewhere" }).click();
  await expect(stepRows(page)).toHaveCount(2);
  expect(peakDb((await exported(page)).left, 0.5, 1.8)).toBeCloseTo(-39, 0);
});

test("clips are linked and unlinked: what is done to one is done to all, until each has its own", async ({
  page
}) => {
  const names = await threeClips(page, "Linked");
  await clip(page, "High").click();
  await addStep(page, "ga");
  await type(page, "Gain", "-3");
  await chooseAll(page, names);
  await clip(page, "High").click({ button: "right" });
  await page.getByRole("menuitem", { name: /^Link/ }).click();
  for (const name of names) await expect(clip(page, name)).toHaveAccessibleName(/shares its chain/);
  await clip(page, "Low").click();
  await type(page, "Gain", "-9");
  const { left } = await exported(page);
  expect(peakDb(left, 0.2, 1.8)).toBeCloseTo(-29, 1);
  await chooseAll(page, names);
  await clip(page, "High").click({ button: "right" });
  await page.getByRole("menuitem", { name: /^Unlink/ }).click();
  for (const name of names) await expect(clip(page, name)).not.toHaveAccessibleName(/shares/);
  await clip(page, "Low").click();
  await type(page, "Gain", "0");
  const apart = (await exported(page)).left;
  expect(peakDb(apart, 0.2, 1.8)).toBeCloseTo(-29, 1);
  expect(peakDb(apart, 4.2, 5.8)).toBeCloseTo(-32, 1);
});

test("effects are browsed, pulled from the shelf into the chain and onto a clip, and replaced in place", async ({
  page
}) => {
  await projectWithClip(page, "Pulled", toneFile("Pulled.wav", -20));
  const field = page.getByRole("combobox", { name: "Add a step" });
  await field.click();
  await expect(page.getByText("Space and echo", { exact: true })).toBeVisible();
  await page
    .getByRole("option", { name: /^Compressor/ })
    .first()
    .click();
  await expect(stepRows(page).first()).toContainText("Compressor");
  await type(page, "Threshold", "-33");
  // The same field puts another in its place, at the same threshold.
  await page.getByRole("button", { name: /^1 Compressor/ }).click({ button: "right" });
  await page.getByRole("menuitem", { name: /^Replace/ }).click();
  await page.getByRole("combobox", { name: "Replace Compressor by" }).pressSequentially("expand");
  await page.keyboard.press("Enter");
  await expect(stepRows(page).first()).toContainText("Expander");
  await expect(page.getByRole("textbox", { name: "Threshold", exact: true })).toHaveValue("-33.0 dB");

  await shelf(page, true);
  await page.getByRole("tab", { name: "Effects" }).click();
  const gain = page.getByRole("group", { name: "Gain", exact: true });
  await gain.dragTo(stepRows(page).first());
  await expect(stepRows(page)).toHaveCount(2);
  await expect(stepRows(page).first()).toContainText("Gain");
  await page.getByRole("group", { name: "Limiter", exact: true }).dragTo(clip(page, "Pulled"));
  await expect(stepRows(page)).toHaveCount(3);
  await expect(stepRows(page).last()).toContainText("Limiter");
  await shelf(page, false);
  // Some: chosen by Ctrl and by Shift with arrow keys, switched and removed as one edit.
  const row = (n: number) => stepRows(page).nth(n).locator("[data-step]");
  await row(0).click();
  await row(2).click({ modifiers: ["Control"] });
  await expect(row(2)).toHaveAttribute("aria-pressed", "true");
  await expect(row(1)).toHaveAttribute("aria-pressed", "false");
  await row(2).press("o");
  await expect(stepRows(page).getByRole("switch", { checked: false })).toHaveCount(2);
  await expect(page.getByRole("switch", { name: "Expander on" })).toBeChecked();
  await page.getByRole("button", { name: "Undo: switch 2 steps off" }).click();
  await expect(stepRows(page).getByRole("switch", { checked: true })).toHaveCount(3);
  await row(0).click();
  await row(0).press("Shift+ArrowDown");
  await expect(row(1)).toBeFocused();
  await row(1).press("Delete");
  await expect(stepRows(page)).toHaveCount(1);
  await expect(stepRows(page).first()).toContainText("Limiter");
  await page.getByRole("button", { name: "Undo: remove 2 steps" }).click();
  await expect(stepRows(page)).toHaveCount(3);
  // All off and on again by one key.
  await clip(page, "Pulled").focus();
  await page.keyboard.press("Alt+b");
  await expect(clip(page, "Pulled")).toHaveAccessibleName(/all steps off/);
  await page.keyboard.press("Alt+b");
  await expect(clip(page, "Pulled")).toHaveAccessibleName(/live/);
});

test("a span is pulled on the picture, and by its end; it is kept and heard there alone", async ({
  page
}) => {
  await projectWithClip(page, "Pulled span", toneFile("Spanned.wav", -20));
  await type(page, "Range from", "0:01");
  await type(page, "Range to", "0:02");
  await addStep(page, "ga");
  await type(page, "Gain", "-20");
  const band = page.locator("[data-span]");
  const before = await boxOf(band);
  const second = before.width;
  await pull(page, [before.x + second / 2, before.y + 3], [before.x + second / 2 + second, before.y + 3]);
  await expect(stepRows(page).first()).toContainText("0:02.0–0:03.0");
  const moved = await boxOf(band);
  await pull(page, [moved.x + 2, moved.y + 3], [moved.x + 2 - second / 2, moved.y + 3]);
  await expect(stepRows(page).first()).toContainText("0:01.5–0:03.0");
  await saved(page);
  await page.reload();
  await clip(page, "Spanned").click();
  await expect(stepRows(page).first()).toContainText("0:01.5–0:03.0");
  const { left } = await exported(page);
  expect(peakDb(left, 0.2, 1.3)).toBeCloseTo(-20, 1);
  expect(peakDb(left, 1.7, 2.8)).toBeCloseTo(-40, 1);
  expect(peakDb(left, 3.2, 3.8)).toBeCloseTo(-20, 1);
});

test("the sheet measures the selected range, and says what looks like a mistake", async ({ page }) => {
  await projectWithClip(page, "Advice", toneFile("Advised.wav", -12));
  await addStep(page, "ga");
  await type(page, "Gain", "+18");
  await expect(stepRows(page).first()).toContainText("will clip: take");
  await addStep(page, "limiter");
  await type(page, "Gain", "0");
  await expect(stepRows(page).first()).not.toContainText("will clip");
  await type(page, "Gain", "+12");
  await expect(stepRows(page).last()).toContainText(/takes 1\d\.\d dB off the highest peak/);
  await addStep(page, "gate");
  await type(page, "Threshold", "0");
  await expect(stepRows(page).last()).toContainText("never opens");
  await type(page, "Range from", "0:01");
  await type(page, "Range to", "0:02");
  await expect(page.getByText("range, LUFS")).toBeVisible();
  await expectAccessible(page, "#bench");
});

test("candidates are switched by key while it plays: no gap, in step, equally loud; the difference alone; the ear guard", async ({
  page
}) => {
  await tapRing(page);
  await projectWithClip(page, "Compared", toneFile("Compared.wav", -40));
  await addStep(page, "ga");
  await type(page, "Gain", "+24");
  await page.locator(".timeline").click({ position: { x: 600, y: 40 } });
  await clip(page, "Compared").click();
  await expect(page.getByText("measuring levels…")).toBeHidden();
  await page.keyboard.press("Alt+k");
  await expect(page.getByRole("radio", { name: "State 1" })).toBeVisible();
  await page.getByRole("button", { name: "Compare: Compare" }).click();
  await expect(page.getByRole("row", { name: /before/ })).toContainText("-24.0");
  await expect(page.getByRole("row", { name: /before/ })).toContainText("+24.0 dB");
  await expectAccessible(page, "#bench");
  await page.keyboard.press("Escape");

  // At equal loudness: before is raised to after.
  await page.keyboard.press("1");
  await page.keyboard.press("Alt+p");
  await expect(page.getByRole("button", { name: "Preview" })).toHaveAttribute("aria-pressed", "true");
  await page.waitForTimeout(700);
  await collect(page);
  await page.waitForTimeout(400);
  await page.keyboard.press("2");
  await expect(page.getByRole("radio", { name: "After" })).toHaveAttribute("aria-checked", "true");
  await page.waitForTimeout(400);
  const equal = await heard(page);
  // A tone of -16 dBFS all along: neither a gap nor a jump, and the wave goes on where it was.
  const top = 10 ** (-16 / 20);
  let steepest = 0;
  for (let i = 1; i < equal.left.length; i++)
    steepest = Math.max(steepest, Math.abs(equal.left[i] - equal.left[i - 1]));
  expect(steepest).toBeLessThan(top * ((2 * Math.PI * 997) / RATE) * 1.1);
  for (let at = 0; at + 0.02 < equal.left.length / RATE; at += 0.02)
    expect(peakDb(equal.left, at, at + 0.02)).toBeCloseTo(-16, 0);

  // At their own levels a switch from -40 to -16 dBFS is eased: 6 LU at once.
  await page.keyboard.press("q");
  await page.keyboard.press("1");
  await page.waitForTimeout(3600);
  await page.evaluate(() => window.heard?.stop());
  await collect(page);
  await page.waitForTimeout(200);
  await page.keyboard.press("2");
  await expect(page.getByText(/ear guard -1\d dB/)).toBeVisible();
  await page.waitForTimeout(300);
  const eased = await heard(page);
  const begin = eased.left.findIndex((v) => Math.abs(v) > 10 ** (-38.5 / 20)) / RATE;
  expect(begin).toBeGreaterThan(0);
  expect(peakDb(eased.left, begin, begin + 0.15)).toBeLessThan(-40 + 6 + 2);
  // It comes up by itself.
  await expect(page.getByText(/ear guard/)).toBeHidden({ timeout: 20000 });

  // The difference: gain 24 dB less the sound itself.
  await page.keyboard.press("Alt+q");
  await expect(page.getByText("only the difference is heard")).toBeVisible();
  await page.waitForTimeout(600);
  await page.evaluate(() => window.heard?.stop());
  await collect(page);
  await page.waitForTimeout(300);
  const difference = await heard(page);
  const wanted = 20 * Math.log10(10 ** (-16 / 20) - 10 ** (-40 / 20));
  expect(peakDb(difference.left, 0, 0.2)).toBeCloseTo(wanted, 1);
  await page.keyboard.press("Alt+p");
  // None of it is in an export.
  await page.keyboard.press("1");
  const { left } = await exported(page);
  expect(peakDb(left, 1, 3)).toBeCloseTo(-16, 1);
});

test("the monitor has a level of its own, which changes neither the meters nor the export", async ({
  page
}) => {
  await tapRing(page);
  await projectWithClip(page, "Monitored", toneFile("Monitored.wav", -20));
  await page.getByRole("button", { name: /^Monitor:/ }).click();
  await type(page, "Level of the monitor", "-12");
  await page.keyboard.press("Escape");
  await expect(page.getByRole("button", { name: "Monitor: monitor -12.0 dB" })).toBeVisible();
  await clip(page, "Monitored").click();
  await page.keyboard.press("Alt+p");
  await page.waitForTimeout(600);
  await collect(page);
  await page.waitForTimeout(400);
  expect(peakDb((await heard(page)).left, 0, 0.3)).toBeCloseTo(-32, 1);
  await expect(page.locator("[data-meter=M] .value")).toHaveText(/^-(19\.9|20\.[01])$/);
  await page.keyboard.press("Alt+p");
  await page.reload();
  await expect(page.getByRole("button", { name: "Monitor: monitor -12.0 dB" })).toBeVisible();
  expect(peakDb((await exported(page)).left, 1, 3)).toBeCloseTo(-20, 1);
});

test("Examine names what is wrong with its number and mends it by one click; nothing is applied by itself", async ({
  page
}) => {
  await projectWithClip(page, "Examined", toneFile("Examined.wav", -50));
  await clip(page, "Examined").focus();
  await page.keyboard.press("Alt+e");
  await expect(page.getByText(/Too low: -5\d\.\d LUFS/)).toBeVisible();
  await expect(page.getByText(/Correlation/)).toBeVisible();
  await expectAccessible(page, "#bench");
  await expect(stepRows(page)).toHaveCount(0);
  await addStep(page, "limiter");
  await page.getByRole("button", { name: /^Add Gain/ }).click();
  await expect(stepRows(page)).toHaveCount(2);
  await expect(stepRows(page).first()).toContainText("Gain");
  await saved(page);
  const { left } = await exported(page);
  expect(peakDb(left, 1, 3)).toBeGreaterThan(-30);
});

test("a noise profile says where it is from, is doubted when it is short, and a preset carries it or asks for one", async ({
  page
}) => {
  await projectWithClip(page, "Profiles", noiseFile("Noisy.wav", 3));
  await addStep(page, "noise");
  await type(page, "Range from", "0:01");
  await type(page, "Range to", "0:01.2");
  await expect(page.getByText("a profile wants 0.25 s")).toBeVisible();
  await page.getByRole("button", { name: "Learn from the range" }).click();
  await expect(page.getByText(/Only 0\.20 s were learnt from/)).toBeVisible();
  await expect(page.getByText("Noisy, 0:01.0 to 0:01.2")).toBeVisible();
  // A problem is told before news: it is put away.
  await page
    .getByRole("button", { name: /^Dismiss/ })
    .first()
    .click();
  await page.getByRole("button", { name: "Save preset…" }).click();
  await page.getByRole("textbox", { name: "Name", exact: true }).fill("Asks for its room");
  await page.getByText("is asked for where the preset is applied").click();
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByText('Preset "Asks for its room" is saved.')).toBeVisible();
  await shelf(page, true);
  await page.getByRole("tab", { name: "Presets" }).click();
  await page.getByRole("button", { name: "Apply preset Asks for its room" }).click();
  await shelf(page, false);
  await expect(page.getByText(/asks for a noise profile: select a stretch/)).toBeVisible();
  await expect(stepRows(page).first()).toContainText("It waits for a noise profile");
});

test("what this version does not know is kept and said; a chain of 64 steps is full", async ({ page }) => {
  await projectWithClip(page, "Strange", toneFile("Strange.wav", -20));
  const paste = async (steps: unknown[]) => {
    await page.evaluate(
      (text) => localStorage.setItem("wring.treatment", text),
      JSON.stringify({
        from: "elsewhere",
        sampleRate: 48000,
        steps,
        recordings: [],
        offset: 0
      })
    );
    await clip(page, "Strange").focus();
    await page.keyboard.press("u");
    await page.getByRole("button", { name: "Paste to Strange" }).click();
  };
  await paste([{ effect: "gravity", on: true, params: { pull: 3 }, span: null }]);
  await expect(stepRows(page).first()).toContainText("unknown here: kept, does nothing");
  await expect(page.getByText(/has no effect "gravity"/)).toBeAttached();
  expect(peakDb((await exported(page)).left, 1, 3)).toBeCloseTo(-20, 1);
  await paste(
    Array.from({ length: 64 }, () => ({ effect: "gain", on: true, params: { gainDb: 0 }, span: null }))
  );
  await expect(stepRows(page)).toHaveCount(64);
  await addStep(page, "gain");
  await expect(page.getByText('"Strange" already has 64 steps, which is the most.')).toBeVisible();
});

test.describe("in the demo", () => {
  test("the low interview is rescued from below -45 to -16 LUFS under -1 dBTP, and compared with two other ways", async ({
    page
  }) => {
    await openDemo(page);
    const before = await undo(page).textContent();
    await clip(page, "Engineer 2").click();
    await page.keyboard.press("Shift+U");
    await page.getByRole("button", { name: "Take off", exact: true }).click();
    await expect(stepRows(page)).toHaveCount(0);
    const recorded = page.locator(".row.source .number").first();
    await expect.poll(async () => Number(await recorded.textContent())).toBeLessThan(-45);
    // One way: much gain into a limiter.
    await addStep(page, "ga");
    await type(page, "Gain", "+34");
    await page.keyboard.press("Escape");
    await clip(page, "Engineer 2").click();
    await page.keyboard.press("Alt+k");
    // Another: a leveller behind it.
    await addStep(page, "leveller");
    await clip(page, "Engineer 2").focus();
    await page.keyboard.press("Alt+k");
    await page.getByRole("button", { name: /^2 Leveller/ }).focus();
    await page.keyboard.press("Delete");
    // The one that is kept: to -16 LUFS by one gain, its peaks held.
    await page.getByRole("button", { name: /^1 Gain/ }).focus();
    await page.keyboard.press("Delete");
    await addStep(page, "normalize");
    await page.getByRole("combobox", { name: "Measure" }).selectOption({ label: "Integrated loudness" });
    await type(page, "Level", "-16");
    await addStep(page, "limiter");
    await type(page, "Gain", "0");
    await type(page, "Ceiling", "-1.2");
    await expect(page.getByText("measuring levels…")).toBeHidden();
    await page.getByRole("button", { name: "Compare: Compare" }).click();
    await expect(page.getByRole("row", { name: /state 2/ })).toContainText(/-\d\d\.\d/);
    await page.keyboard.press("Escape");
    await clip(page, "Engineer 2").focus();
    await page.keyboard.press("Alt+p");
    for (const key of ["1", "3", "4", "2"]) {
      await page.keyboard.press(key);
      await page.waitForTimeout(500);
    }
    await expect(page.getByRole("radio", { name: "After" })).toHaveAttribute("aria-checked", "true");
    await page.keyboard.press("Alt+p");
    await page.getByRole("button", { name: "Solo Interview" }).click();
    const { left } = await exported(page);
    const words = left.subarray(51 * RATE, Math.round(58.8 * RATE));
    const meter = new Meter(RATE);
    eachBlock(words, words, 512, (l, r, n) => meter.push(l, r, n));
    const { integratedLufs, truePeakDbtp } = meter.result();
    meter.release();
    expect(integratedLufs).toBeGreaterThan(-16.5);
    expect(integratedLufs).toBeLessThan(-15.5);
    expect(truePeakDbtp).toBeLessThan(-1);
    await backTo(page, before);
  });

  test("the bell is turned round in one of its clips; the others stay", async ({ page }) => {
    await openDemo(page);
    const before = await undo(page).textContent();
    await page.getByRole("button", { name: "Solo Bell" }).click();
    const straight = (await exported(page)).left;
    await clip(page, "Bell, far off").click();
    await addStep(page, "reverse");
    const turned = (await exported(page)).left;
    const [from, to] = [27.5 * RATE, Math.round(31.7 * RATE)];
    let elsewhere = 0;
    let here = 0;
    for (let i = 0; i < straight.length; i++) {
      const difference = Math.abs(straight[i] - (turned[i] ?? 0));
      if (i >= from && i < to) here = Math.max(here, difference);
      else elsewhere = Math.max(elsewhere, difference);
    }
    expect(elsewhere).toBe(0);
    expect(here).toBeGreaterThan(0.001);
    await backTo(page, before);
  });

  test("one word inside a sentence is de-essed without a cut", async ({ page }) => {
    await openDemo(page);
    const before = await undo(page).textContent();
    const clips = await page.locator("[data-clip]").count();
    const plain = (await exported(page)).left;
    await clip(page, "Sixty-one years").click();
    await type(page, "Range from", "0:20");
    await type(page, "Range to", "0:20.8");
    await addStep(page, "de-ess");
    await type(page, "Threshold", "-80");
    await type(page, "From", "1500");
    await expect(stepRows(page).first()).toContainText("0:20.0–0:20.8");
    await saved(page);
    await page.reload();
    await expect(page.locator("[data-clip]")).toHaveCount(clips);
    const treated = (await exported(page)).left;
    let outside = 0;
    let inside = 0;
    for (let i = 0; i < plain.length; i++) {
      const difference = Math.abs(plain[i] - (treated[i] ?? 0));
      if (i >= 20 * RATE && i < 20.8 * RATE) inside = Math.max(inside, difference);
      else outside = Math.max(outside, difference);
    }
    // The chains of the track and of the mix hear the word as well: a trace of it is all that is left elsewhere.
    expect(outside).toBeLessThan(1e-6);
    expect(inside).toBeGreaterThan(0.0005);
    await backTo(page, before);
  });
});
