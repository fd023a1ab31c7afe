// Fades, crossfades, lines and joins by pointer and keys: kept after a reload, heard in the export.
import type { Page } from "@playwright/test";
import {
  boxOf,
  clip,
  expect,
  expectAccessible,
  exported,
  importFiles,
  leave,
  newProject,
  openDemo,
  peakDb,
  place,
  projectWithClip,
  pull,
  saved,
  shapedTone,
  test,
  toneFile,
  twoClips,
  type
} from "./wring";

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
  await find(page, "Switch the chosen steps on or off");
  await saved(page);
  const plain = await exported(page);
  expect(peakDb(plain.left, 0, 0.05)).toBeCloseTo(-20, 1);
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
