// The bench: several clips at once, treatments copied and taken off, steps in parts, findings mended. By pointer and by key, kept after a reload, heard in the export.
import type { Page } from "@playwright/test";
import {
  addStep,
  boxOf,
  clip,
  expect,
  expectAccessible,
  exported,
  importFiles,
  newProject,
  noiseFile,
  peakDb,
  place,
  projectWithClip,
  pull,
  saved,
  shelf,
  stepRows,
  test,
  toneFile,
  type
} from "./wring";

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
  await expect(page.getByRole("combobox", { name: "Replace Compressor by" })).toBeFocused();
  await page.keyboard.type("expand");
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
  // said twice, the second time when the chain was looked through: above the chain and in the step's panel
  const unknown = /has no effect "gravity"/;
  await expect(page.getByRole("note").filter({ hasText: unknown })).toBeVisible();
  await expect(page.getByRole("region", { name: "Controls of gravity" })).toContainText(unknown);
  expect(peakDb((await exported(page)).left, 1, 3)).toBeCloseTo(-20, 1);
  await paste(
    Array.from({ length: 64 }, () => ({ effect: "gain", on: true, params: { gainDb: 0 }, span: null }))
  );
  await expect(stepRows(page)).toHaveCount(64);
  await addStep(page, "gain");
  await expect(page.getByText('"Strange" already has 64 steps, which is the most.')).toBeVisible();
});
