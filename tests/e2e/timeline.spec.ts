// Laying out and shaping edges by pointer and keys: kept after a reload, seen by a second page, heard in the export.
import { readFileSync } from "node:fs";
import type { Page } from "@playwright/test";
import { sine } from "../core/signals";
import {
  boxOf,
  clip,
  expect,
  expectAccessible,
  exported,
  importAll,
  importFiles,
  newProject,
  openDemo,
  place,
  projectWithClip,
  pull,
  saved,
  test,
  toneFile,
  type,
  wavFile
} from "./wring";

/** "One" from 0 s and "Two" from 2 s on, a second each, at -20 and -26 dB, with room behind them. */
async function twoClips(page: Page, name: string): Promise<void> {
  await newProject(page, name);
  await importAll(page, toneFile("One.wav", -20, 1), toneFile("Two.wav", -26, 1));
  await place(page, "One");
  await type(page, "Position", "0:02");
  await place(page, "Two");
  await page.getByRole("button", { name: "Show the whole programme" }).click();
  await page.getByRole("button", { name: "Zoom out" }).click();
  // Beside the clips, nothing of them is selected.
  await page.keyboard.press("Escape");
}

/** Leaves a field: keys are the timeline's again. */
const leave = (page: Page) =>
  page.evaluate(() => document.activeElement instanceof HTMLElement && document.activeElement.blur());

const starts = async (page: Page, name: string) =>
  /starts at ([\d:.]+),/.exec((await clip(page, name).getAttribute("aria-label")) ?? "")?.[1];

async function rule(page: Page, name: string): Promise<void> {
  await page.getByRole("radio", { name, exact: true }).click();
  await expect(page.getByRole("radio", { name, exact: true })).toHaveAttribute("aria-checked", "true");
}

const peakDb = (left: Float32Array, from: number, to: number) =>
  20 *
  Math.log10(
    left
      .subarray(Math.round(from * 48000), Math.round(to * 48000))
      .reduce((a, x) => Math.max(a, Math.abs(x)), 0)
  );

test("dropped on others, clips push them along, stay clear while a key is held, or are crossfaded", async ({
  page
}) => {
  await twoClips(page, "Dropped");
  const [one, two] = [await boxOf(clip(page, "One")), await boxOf(clip(page, "Two"))];
  const second = (two.x - one.x) / 2;
  await rule(page, "push along");
  // Two to 0.3 s, into One: it goes behind it. Nothing snaps while Alt is held.
  const from: [number, number] = [two.x + 40, two.y + 35];
  await page.keyboard.down("Alt");
  await pull(page, from, [from[0] - 1.7 * second, from[1]], false);
  await expect(page.locator(".note")).toHaveText(/push along$/);
  await page.mouse.up();
  await page.keyboard.up("Alt");
  await expect(page.getByRole("button", { name: "Undo: move Two" })).toBeVisible();
  expect(await starts(page, "Two")).toBe("0:01.000");
  // One to 1.2 s, in front of nothing: it falls into Two, and goes behind.
  await page.keyboard.press("ControlOrMeta+z");
  expect(await starts(page, "Two")).toBe("0:02.000");
  // Held, 3 keeps it clear for this drop alone.
  await page.mouse.move(...from);
  await page.mouse.down();
  await page.mouse.move(from[0] - 0.6 * second, from[1], { steps: 4 });
  await page.keyboard.down("3");
  await page.mouse.move(from[0] - 1.4 * second, from[1], { steps: 4 });
  await expect(page.locator(".note")).toHaveText(/stay clear$/);
  await page.mouse.up();
  await page.keyboard.up("3");
  expect(await starts(page, "Two")).toBe("0:01.000");
  await expect(page.getByRole("radio", { name: "push along" })).toHaveAttribute("aria-checked", "true");

  await rule(page, "crossfade");
  const now = await boxOf(clip(page, "Two"));
  await page.keyboard.down("Alt");
  await pull(page, [now.x + 40, now.y + 35], [now.x + 40 - 0.5 * second, now.y + 35]);
  await page.keyboard.up("Alt");
  await expect(clip(page, "Two")).toHaveAccessibleName(/starts at 0:00\.[45]/);
  await saved(page);
  await page.reload();
  await expect(clip(page, "Two")).toHaveAccessibleName(/starts at 0:00\.[45]/);
  const { left } = await exported(page);
  expect(left.length / 48000).toBeCloseTo(1.5, 1);
  // Two tones of one frequency and phase by chance of where it lies: never louder than both in step, and the first alone is untouched.
  expect(peakDb(left, 0.05, 0.4)).toBeCloseTo(-20, 1);
  expect(peakDb(left, 1.1, 1.4)).toBeCloseTo(-26, 1);
  expect(peakDb(left, 0.5, 1)).toBeLessThan(-19.5);
});

test("an edge snaps to what is near, and the line says to what", async ({ page }) => {
  await twoClips(page, "Snapped");
  const [one, two] = [await boxOf(clip(page, "One")), await boxOf(clip(page, "Two"))];
  const second = (two.x - one.x) / 2;
  // To 4 pixels behind the end of One.
  await pull(page, [two.x + 40, two.y + 35], [two.x + 40 - second + 4, two.y + 35], false);
  await expect(page.getByText("end of One")).toBeVisible();
  await page.mouse.up();
  expect(await starts(page, "Two")).toBe("0:01.000");
  await page.keyboard.press("ControlOrMeta+z");
  await page.keyboard.press("Shift+S");
  await expect(page.getByRole("button", { name: "snap", exact: true })).toHaveAttribute(
    "aria-pressed",
    "false"
  );
  await pull(page, [two.x + 40, two.y + 35], [two.x + 40 - second + 4, two.y + 35]);
  expect(await starts(page, "Two")).not.toBe("0:01.000");
});

test("an edge that is pulled shows the zero crossing at which it will be cut, and is cut there", async ({
  page
}) => {
  await twoClips(page, "Crossing");
  await page.getByText(/^to \d$/).click();
  await page.getByText("zero crossings (cuts and edges)").click();
  await page.keyboard.press("Escape");
  const { x, y, width } = await boxOf(clip(page, "One"));
  const [from, to]: [number, number][] = [
    [x + width - 2, y + 40],
    [x + width * 0.71, y + 40]
  ];
  const crossing = page.getByText("a zero crossing", { exact: true });
  // Held, Alt suspends it.
  await page.keyboard.down("Alt");
  await pull(page, from, to, false);
  await expect(page.getByText(/^ends at/)).toBeVisible();
  await expect(crossing).toBeHidden();
  await page.keyboard.up("Alt");
  await page.mouse.move(to[0] + 3, to[1]);
  await expect(crossing).toBeVisible();
  await page.mouse.up();
  await saved(page);
  await page.reload();
  const { left } = await exported(page);
  const end = left.subarray(0, 1.5 * 48000).findLastIndex((value) => value !== 0) + 1;
  expect(end / 48000).toBeGreaterThan(0.6);
  expect(end / 48000).toBeLessThan(0.8);
  const tone = sine(997, -20, 48000);
  expect(tone[end - 1] * tone[end]).toBeLessThanOrEqual(0);
});

test("a range pulled in a lane is taken out with its gap closed: what sounds is what is left, joined", async ({
  page
}) => {
  await twoClips(page, "Ranged");
  await page.keyboard.press("w");
  await expect(page.getByRole("radio", { name: "time" })).toHaveAttribute("aria-checked", "true");
  const [one, two] = [await boxOf(clip(page, "One")), await boxOf(clip(page, "Two"))];
  const second = (two.x - one.x) / 2;
  await page.keyboard.down("Alt");
  await pull(page, [one.x + 0.25 * second, one.y + 30], [one.x + 0.75 * second, one.y + 30]);
  await page.keyboard.up("Alt");
  await expect(clip(page, "One")).toHaveAttribute("aria-pressed", "true");
  await type(page, "Range from", "0.25");
  await type(page, "Range length", "0.5");
  await expect(page.getByRole("textbox", { name: "Range to" })).toHaveValue("0:00.750");
  await leave(page);
  await page.keyboard.press("Shift+Delete");
  await expect(
    page.getByRole("button", { name: "Undo: take out the range and close the gap" })
  ).toBeVisible();
  expect(await starts(page, "Two")).toBe("0:01.500");
  await saved(page);
  await page.reload();
  expect(await starts(page, "Two")).toBe("0:01.500");
  const { left } = await exported(page);
  expect(left.length).toBe(2.5 * 48000);
  expect(peakDb(left, 0.02, 0.2)).toBeCloseTo(-20, 1);
  expect(peakDb(left, 0.3, 0.48)).toBeCloseTo(-20, 1);
  expect(peakDb(left, 0.51, 1.49)).toBe(-Infinity);
  expect(peakDb(left, 1.6, 2.4)).toBeCloseTo(-26, 1);
});

test("keys copy, paste, repeat, split, nudge and take away; Escape goes back from the range to the clips to nothing", async ({
  page
}) => {
  await twoClips(page, "Keys");
  await clip(page, "One").click();
  await page.keyboard.press("ControlOrMeta+c");
  await type(page, "Position", "0:04");
  await leave(page);
  await page.keyboard.press("ControlOrMeta+v");
  await expect(page.getByRole("button", { name: "Undo: paste One" })).toBeVisible();
  await expect(clip(page, "One")).toHaveCount(2);
  await page.keyboard.press("Alt+ArrowRight");
  await expect(clip(page, "One").nth(1)).toHaveAccessibleName(/starts at 0:04\.010/);
  await page.keyboard.press("Shift+D");
  await page.getByRole("textbox", { name: "Or until a place" }).fill("0:08");
  await page.getByRole("button", { name: "Repeat", exact: true }).click();
  await expect(clip(page, "One")).toHaveCount(4);
  await clip(page, "Two").click();
  await type(page, "Position", "0:02.5");
  await leave(page);
  await page.keyboard.press("x");
  await expect(clip(page, "Two")).toHaveCount(2);
  await page.keyboard.press("Delete");
  await expect(clip(page, "Two")).toHaveCount(1);
  await saved(page);
  await page.reload();
  await expect(clip(page, "One")).toHaveCount(4);
  await expect(clip(page, "Two")).toHaveAccessibleName(/starts at 0:02\.500/);

  await clip(page, "Two").click();
  await page.keyboard.press("ControlOrMeta+k");
  await page.getByRole("combobox", { name: "Action" }).fill("Range over the selected");
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("textbox", { name: "Range from" })).not.toHaveValue("–");
  await page.keyboard.press("Escape");
  await expect(page.getByRole("textbox", { name: "Range from" })).toHaveValue("–");
  await expect(clip(page, "Two")).toHaveAttribute("aria-pressed", "true");
  await page.keyboard.press("Escape");
  await expect(clip(page, "Two")).toHaveAttribute("aria-pressed", "false");
});

test("fades of all selected clips are edited at once: length, curve, bend, points; heard in the export", async ({
  page
}) => {
  await twoClips(page, "Fades");
  await clip(page, "One").click();
  await clip(page, "Two").click({ modifiers: ["ControlOrMeta"] });
  await page.keyboard.press("Shift+E");
  await type(page, "Length of the fade", "500 ms");
  await type(page, "Bend of the fade", "-5");
  await expect(page.getByRole("button", { name: /^Undo: fade/ })).toBeVisible();
  await page.getByRole("combobox", { name: "Curve of the fade" }).selectOption("drawn");
  await expect(page.getByRole("slider", { name: /^Point/ })).toHaveCount(3);
  await type(page, "Gain of point 2", "-20");
  await page.getByRole("combobox", { name: "Way between points" }).selectOption("straight");
  // A click on the curve adds one; Delete takes one away.
  const curve = await boxOf(page.getByRole("group", { name: "Curve of the fade in" }));
  await page.mouse.click(curve.x + curve.width * 0.9, curve.y + 4);
  await expect(page.getByRole("slider", { name: /^Point/ })).toHaveCount(4);
  await page.getByRole("slider", { name: /^Point 1/ }).focus();
  await page.keyboard.press("Delete");
  await expect(page.getByRole("slider", { name: /^Point/ })).toHaveCount(3);
  await page.getByRole("textbox", { name: "Save this one as" }).fill("Slow start");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByText('Fade preset "Slow start" is saved.')).toBeVisible();
  await expectAccessible(page, "#bench");
  await saved(page);
  await page.reload();
  const { left } = await exported(page);
  // The point in the middle of both fades lies at -20 dB.
  expect(peakDb(left, 0.245, 0.2505)).toBeCloseTo(-40, 0);
  expect(peakDb(left, 2.245, 2.2505)).toBeCloseTo(-46, 0);
  expect(peakDb(left, 0.6, 0.9)).toBeCloseTo(-20, 1);

  // The preset shapes another fade, and goes.
  await clip(page, "Two").click();
  await page.keyboard.press("Shift+E");
  await page.getByRole("radio", { name: "out", exact: true }).click();
  await type(page, "Length of the fade", "200 ms");
  await page.getByRole("combobox", { name: "Fade preset" }).click();
  await page.getByRole("option", { name: "Slow start" }).click();
  await expect(page.getByRole("combobox", { name: "Curve of the fade" })).toHaveValue("drawn");
  await page.getByRole("button", { name: "Delete the fade preset" }).click();
  await expect(page.getByRole("combobox", { name: "Fade preset" })).toHaveAttribute(
    "placeholder",
    "none yet"
  );
});

test("a fade's curve is bent by pulling it, with its value shown; Escape takes it back", async ({ page }) => {
  await twoClips(page, "Bent");
  await clip(page, "One").click();
  const one = await boxOf(clip(page, "One"));
  const second = one.width;
  await type(page, "Fade in length", "1 s");
  // The middle of a straight fade lies in the middle of the wave.
  const at: [number, number] = [one.x + second / 2, one.y + 15 + (one.height - 16) / 2];
  await pull(page, at, [at[0], at[1] - 24], false);
  await expect(page.getByText(/^bend \+[34]\.\d$/)).toBeVisible();
  await page.keyboard.press("Escape");
  await page.mouse.up();
  await expect(page.getByRole("button", { name: "Undo: fade in of One" })).toBeVisible();
  await pull(page, at, [at[0], at[1] - 60]);
  await saved(page);
  await page.reload();
  const { left } = await exported(page);
  // (1 - e^-2.5) / (1 - e^-5) = 0.924 in the middle.
  expect(peakDb(left, 0.495, 0.505)).toBeGreaterThan(-21);
  expect(peakDb(left, 0.495, 0.505)).toBeLessThan(-20.4);
});

test("a gain line is drawn over a clip by pointer and keys, and heard in the export", async ({ page }) => {
  await twoClips(page, "Line");
  await clip(page, "One").click();
  const one = await boxOf(clip(page, "One"));
  await page.keyboard.press("l");
  const line = page.getByRole("group", { name: "Gain line of One" });
  const hit = await boxOf(line.locator("path").last());
  await page.mouse.dblclick(hit.x + hit.width * 0.4, hit.y + hit.height / 2);
  await expect(page.getByRole("slider", { name: /^Gain point/ })).toHaveCount(1);
  await page.mouse.dblclick(hit.x + hit.width * 0.6, hit.y + hit.height / 2);
  await expect(page.getByRole("slider", { name: /^Gain point/ })).toHaveCount(2);
  const second = page.getByRole("slider", { name: /^Gain point/ }).nth(1);
  const point = await boxOf(second);
  await pull(page, [point.x + 5, point.y + 5], [point.x + 5, one.y + one.height - 10]);
  await expect(clip(page, "One")).toHaveAccessibleName(/starts at 0:00\.000/);
  await second.focus();
  for (let i = 0; i < 40; i++) await page.keyboard.press("ArrowDown");
  await expect(page.getByRole("button", { name: "Undo: gain line of One" })).toBeVisible();
  const db = Number((await second.getAttribute("aria-valuenow")) ?? "0");
  expect(db).toBeLessThan(-40);
  await saved(page);
  await page.reload();
  const { left } = await exported(page);
  expect(peakDb(left, 0.05, 0.35)).toBeCloseTo(-20, 1);
  expect(peakDb(left, 0.7, 0.95)).toBeCloseTo(-20 + db, 0);
});

test("lines of a track are typed: gain and pan over time, heard in the export", async ({ page }) => {
  await twoClips(page, "Track lines");
  await page.getByRole("button", { name: "Chain of Track 1, 0 steps" }).click();
  await page.keyboard.press("Alt+l");
  await type(page, "Position", "0:00.5");
  await page.getByRole("button", { name: "Point at the playhead" }).click();
  await type(page, "Position", "0:02");
  await page.getByRole("button", { name: "Point at the playhead" }).click();
  await type(page, "Gain of point 2", "-12");
  await type(page, "Time of point 2", "0:01.5");
  await page.getByRole("radio", { name: "pan", exact: true }).click();
  await type(page, "Position", "0:00");
  await page.getByRole("button", { name: "Point at the playhead" }).click();
  await type(page, "Pan of point 1", "L100");
  await expect(page.getByRole("textbox", { name: "Pan of point 1" })).toHaveValue("L100");
  await expectAccessible(page, "#bench");
  await saved(page);
  await page.reload();
  const { left } = await exported(page);
  expect(peakDb(left, 0.1, 0.45)).toBeCloseTo(-20, 1);
  expect(peakDb(left, 2.1, 2.9)).toBeCloseTo(-38, 1);
});

/** A tone of so many seconds that is changed sample by sample. */
function shapedTone(name: string, seconds: number, change: (x: number, i: number) => number) {
  return wavFile(name, sine(997, -20, Math.round(seconds * 48000)).map(change));
}

async function find(page: Page, letters: string): Promise<void> {
  await page.keyboard.press("ControlOrMeta+k");
  await page.getByRole("combobox", { name: "Action" }).fill(letters);
  await page.keyboard.press("Enter");
}

test("a click is taken out by hand: cut at zero crossings, closed inside its clip, joined", async ({
  page
}) => {
  const file = shapedTone("Clicked.wav", 3, (x, i) => (i >= 48000 && i < 48030 ? 0.9 : x));
  await projectWithClip(page, "Clicked", file);
  await type(page, "Range from", "0:00.999");
  await type(page, "Range to", "0:01.002");
  await leave(page);
  await page.keyboard.press("Shift+R");
  await expect(page.getByText(/ms are taken out of Clicked\./)).toBeVisible();
  await expect(clip(page, "Clicked")).toHaveCount(2);
  await saved(page);
  await page.reload();
  const { left } = await exported(page);
  const gone = 3 * 48000 - left.length;
  expect(gone).toBeGreaterThan(140);
  expect(gone).toBeLessThan(800);
  expect(peakDb(left, 0, 2.9)).toBeLessThan(-16.5);
  // Nowhere a step that the tone does not have.
  const steepest = left.reduce((most, x, i) => Math.max(most, Math.abs(x - (left[i - 1] ?? x))), 0);
  expect(steepest).toBeLessThan(0.1 * 2 * Math.PI * (997 / 48000) * 1.6);
});

test("a join finds its best place: where it is quiet", async ({ page }) => {
  const file = shapedTone("Quiet.wav", 3, (x, i) => (i > 52000 && i < 58000 ? x * 0.01 : x));
  await projectWithClip(page, "Best place", file);
  await type(page, "Position", "0:01");
  await leave(page);
  await page.keyboard.press("x");
  await expect(clip(page, "Quiet")).toHaveCount(2);
  await page.keyboard.press("Escape");
  await page.keyboard.press("Shift+B");
  await expect(page.getByText(/^Quiet and Quiet: \d+ ms, at -\d+ dBFS, ρ/)).toBeVisible();
  await expect(clip(page, "Quiet").nth(1)).toHaveAccessibleName(/starts at 0:01\.(0[89]|1)/);
  await saved(page);
  const { left } = await exported(page);
  expect(left.length).toBe(3 * 48000);
  expect(peakDb(left, 0.1, 1)).toBeCloseTo(-20, 1);
});

test("a fade on a recording names the clips that hear it, is a step that can be switched off, and sounds in all", async ({
  page
}) => {
  await projectWithClip(page, "Recording fade", toneFile("Both.wav", -20, 2));
  await page.keyboard.press("d");
  await expect(clip(page, "Both")).toHaveCount(2);
  await clip(page, "Both").first().click();
  await type(page, "Range from", "0:00");
  await type(page, "Range to", "0:01");
  await leave(page);
  await find(page, "Fade the recording here");
  await expect(page.getByText(/2 clips show\s+this\s+recording\s+and\s+will\s+hear\s+it/)).toBeVisible();
  await page.getByRole("button", { name: "Fade the recording", exact: true }).click();
  await expect(page.getByRole("heading", { name: "Recording Both" })).toBeVisible();
  await saved(page);
  await page.reload();
  const faded = await exported(page);
  for (const begin of [0, 2]) {
    expect(peakDb(faded.left, begin, begin + 0.05)).toBeLessThan(-40);
    expect(peakDb(faded.left, begin + 1.2, begin + 1.8)).toBeCloseTo(-20, 1);
  }
  await clip(page, "Both").first().click();
  await find(page, "Put the recording on the bench");
  await find(page, "Switch the chosen step on or off");
  await saved(page);
  const plain = await exported(page);
  expect(peakDb(plain.left, 0, 0.05)).toBeCloseTo(-20, 1);
});

test("the sound of a clip is slipped inside its window by Ctrl and a pull, as far as its recording goes", async ({
  page
}) => {
  const file = shapedTone("Late.wav", 3, (x, i) => (i < 48000 ? 0 : x));
  await projectWithClip(page, "Slipped", file);
  await type(page, "Position", "0:01.5");
  await leave(page);
  await page.keyboard.press("]");
  await expect(clip(page, "Late")).toHaveAccessibleName(/, 1\.50 s/);
  const box = await boxOf(clip(page, "Late"));
  const second = box.width / 1.5;
  await page.keyboard.down("Control");
  await pull(page, [box.x + 1.2 * second, box.y + 35], [box.x + 0.2 * second, box.y + 35], false);
  await expect(page.locator(".note")).toHaveText(/^sound earlier by 0\.9|^sound earlier by 1\.0/);
  await page.mouse.up();
  await page.keyboard.up("Control");
  await expect(page.getByRole("button", { name: "Undo: slip Late" })).toBeVisible();
  await expect(clip(page, "Late")).toHaveAccessibleName(/starts at 0:00\.000, 1\.50 s/);
  await saved(page);
  await page.reload();
  const { left } = await exported(page);
  expect(left.length).toBe(1.5 * 48000);
  expect(peakDb(left, 0.1, 1.4)).toBeCloseTo(-20, 1);
});

test("crossfades are made at a cut, by the correlation of both sides, and taken away again", async ({
  page
}) => {
  await newProject(page, "Crossed");
  await importFiles(page, toneFile("Long.wav", -20, 3));
  await place(page, "Long");
  await page.getByRole("button", { name: "Show the whole programme" }).click();
  await type(page, "Position", "0:01.5");
  await clip(page, "Long").click();
  await page.keyboard.press("x");
  await expect(clip(page, "Long")).toHaveCount(2);
  await page.keyboard.press("Escape");
  await page.keyboard.press("c");
  await expect(page.getByRole("button", { name: "Undo: crossfade" })).toBeVisible();
  await clip(page, "Long").nth(1).click();
  await page.keyboard.press("Shift+E");
  // Both sides are one sound: their correlation is 1, and the level does not move.
  await expect(page.getByText(/crossed with Long, power level for ρ = 1\.00/)).toBeVisible();
  await saved(page);
  await page.reload();
  const { left } = await exported(page);
  expect(left.length).toBe(3 * 48000);
  expect(peakDb(left, 1.48, 1.52)).toBeCloseTo(-20, 2);
  await clip(page, "Long").nth(1).click();
  await page.keyboard.press("Shift+C");
  await expect(page.getByRole("button", { name: "Undo: remove the crossfade" })).toBeVisible();
});

test("the join check finds the three pops of the demo, each is heard, and all are mended as one edit", async ({
  page
}) => {
  await openDemo(page);
  await page.keyboard.press("p");
  const panel = page.getByRole("complementary", { name: "Join check" });
  await expect(panel.getByText(/^3 places will pop/)).toBeVisible();
  await expect(panel.getByRole("listitem")).toHaveText([
    /Engine/,
    /start of Theme, close/,
    /start of A bad line/
  ]);
  await expectAccessible(page, "aside");
  await page.keyboard.press("j");
  await expect(panel.getByRole("button", { name: /Theme, close/ })).toHaveAttribute("aria-current", "true");
  await expect(page.getByRole("textbox", { name: "Position" })).toHaveValue("2:04.000");
  await page.keyboard.press("h");
  await expect(page.getByRole("button", { name: "Stop (Space)" })).toBeVisible();
  // It plays what is around the pop, and stops by itself.
  await expect(page.getByRole("button", { name: "Play (Space)" })).toBeVisible();
  await panel.getByRole("button", { name: "Mend all" }).click();
  await expect(panel.getByText("All 3 are mended.")).toBeVisible();
  await panel.getByRole("button", { name: "Check again" }).click();
  await expect(panel.getByText("No join pops.")).toBeVisible();
  await saved(page);
  await page.keyboard.press("ControlOrMeta+z");
  await panel.getByRole("button", { name: "Check again" }).click();
  await expect(panel.getByText(/^3 places will pop/)).toBeVisible();
  await saved(page);
});

test("sections are pulled, renamed, saved as CSV and read from it; a double click zooms to one", async ({
  page
}) => {
  await twoClips(page, "Sections");
  await type(page, "Range from", "0:00.5");
  await type(page, "Range to", "0:01.5");
  const action = async (letters: string) => {
    await page.keyboard.press("ControlOrMeta+k");
    await page.getByRole("combobox", { name: "Action" }).fill(letters);
    await page.keyboard.press("ArrowDown");
    await page.keyboard.press("Enter");
  };
  await action("Name the range as a section");
  await page.getByRole("textbox", { name: "Name", exact: true }).fill("A, first");
  await page.keyboard.press("Enter");
  const section = page.getByRole("button", { name: "A, first", exact: true });
  const box = await boxOf(section);
  await page.keyboard.down("Alt");
  await pull(page, [box.x + box.width / 2, box.y + 8], [box.x + box.width * 1.5, box.y + 8]);
  await page.keyboard.up("Alt");
  await expect(page.getByRole("button", { name: "Undo: move section A, first" })).toBeVisible();
  await section.click();
  await expect(page.getByRole("textbox", { name: "Range from" })).toHaveValue(/^0:01\.[45]/);
  await saved(page);
  const download = page.waitForEvent("download");
  await action("Save the sections as CSV");
  const csv = readFileSync(await (await download).path(), "utf8");
  expect(csv).toMatch(/^name,start,end\n"A, first",0:01\.[45]\d+,0:02\.[45]\d+\n$/);
  const chooser = page.waitForEvent("filechooser");
  await action("Add sections from a file");
  await (
    await chooser
  ).setFiles({
    name: "Parts.csv",
    mimeType: "text/csv",
    buffer: Buffer.from('name,start,end\n"B, second",2.25,0:03\n')
  });
  await expect(page.getByRole("button", { name: "B, second", exact: true })).toBeVisible();
  const wrong = page.waitForEvent("filechooser");
  await action("Add sections from a file");
  await (await wrong).setFiles({ name: "Bad.csv", mimeType: "text/csv", buffer: Buffer.from("C,3,2\n") });
  await expect(
    page.getByText('"Bad.csv" could not be read: Line 1: "C" ends before it begins.')
  ).toBeVisible();
  await saved(page);
  await page.reload();
  await page.getByRole("button", { name: "B, second", exact: true }).click();
  await expect(page.getByRole("textbox", { name: "Range from" })).toHaveValue("0:02.250");
});

test("time is shown and typed as timecode, samples, and bars", async ({ page }) => {
  await twoClips(page, "Timed");
  await page.getByRole("button", { name: /^How time is written/ }).click();
  await page.getByRole("combobox", { name: "Time", exact: true }).selectOption("timecode");
  await page.getByRole("combobox", { name: "Frames a second" }).selectOption("29.97 drop");
  await page.keyboard.press("Escape");
  await type(page, "Position", "00:01:00;02");
  await expect(page.getByRole("textbox", { name: "Position" })).toHaveValue("00:01:00;02");
  await page.getByRole("textbox", { name: "Position" }).fill("00:01:00;00");
  await page.keyboard.press("Enter");
  await expect(page.getByText(/Position takes a timecode/)).toBeVisible();
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: /^How time is written/ }).click();
  await page.getByRole("combobox", { name: "Time", exact: true }).selectOption("samples");
  await page.keyboard.press("Escape");
  await expect(page.getByRole("textbox", { name: "Position" })).toHaveValue("2882880");
  await page.reload();
  await type(page, "Position", "96000");
  await page.getByRole("button", { name: /^How time is written/ }).click();
  await page.getByRole("combobox", { name: "Time", exact: true }).selectOption("bars");
  await page.keyboard.press("Escape");
  await expect(page.getByRole("textbox", { name: "Position" })).toHaveValue("2.1.000");
});

test.describe("cut off", () => {
  test.use({ ignoreConsole: /ERR_FAILED/ });

  test("a second page sees a drop; a reload in the middle of a drag loses nothing; what was changed elsewhere is refused and told", async ({
    page,
    context
  }) => {
    await twoClips(page, "Two pages");
    const other = await context.newPage();
    await other.goto(page.url());
    await expect(clip(other, "Two")).toBeVisible();
    await rule(page, "stay clear");
    const two = await boxOf(clip(page, "Two"));
    await pull(page, [two.x + 40, two.y + 35], [two.x + 100, two.y + 35]);
    const moved = (await starts(page, "Two")) ?? "";
    expect(moved).not.toBe("0:02.000");
    await expect(clip(other, "Two")).toHaveAccessibleName(
      new RegExp(`starts at ${moved.replace(".", "\\.")}`)
    );
    const now = await boxOf(clip(page, "Two"));
    await pull(page, [now.x + 40, now.y + 35], [now.x + 200, now.y + 35], false);
    await page.reload();
    await page.mouse.up();
    expect(await starts(page, "Two")).toBe(moved);
    await saved(page);

    // Cut off from the server, the page moves a clip that the other one moves as well.
    await page.route("**/edits", (route) => route.abort());
    await clip(page, "Two").click();
    await page.keyboard.press("Alt+ArrowLeft");
    await clip(other, "Two").click();
    await other.keyboard.press("Alt+ArrowRight");
    await saved(other);
    const settled = (await starts(other, "Two")) ?? "";
    await page.unroute("**/edits");
    await expect(page.getByText(/"Two" was changed elsewhere meanwhile/)).toBeVisible({ timeout: 30000 });
    expect(await starts(page, "Two")).toBe(settled);
    await other.close();
  });
});

test("a track is moved by keys, says what it is for, and goes after saying with how many clips", async ({
  page
}) => {
  await twoClips(page, "Tracks");
  await page.getByRole("button", { name: "Track", exact: true }).click();
  const heads = page.getByRole("group", { name: /^Track (Track )?\d$/ });
  await expect(heads).toHaveCount(2);
  await page.getByRole("button", { name: "Chain of Track 2, 0 steps" }).click();
  await page.keyboard.press("Shift+ArrowUp");
  await expect(page.getByRole("button", { name: "Undo: move track Track 2" })).toBeVisible();
  await expect(heads.first()).toHaveAccessibleName("Track Track 2");
  await saved(page);
  await page.reload();
  await expect(heads.first()).toHaveAccessibleName("Track Track 2");
  await page.getByRole("button", { name: "More for Track 1" }).click();
  await page.getByRole("menuitem", { name: "Remove the track" }).click();
  await expect(page.getByText("2 clips lie on it and will go with it.")).toBeVisible();
  await page.getByRole("button", { name: "Remove", exact: true }).click();
  await expect(clip(page, "One")).toHaveCount(0);
  await page.keyboard.press("ControlOrMeta+z");
  await expect(clip(page, "One")).toHaveCount(1);
});
