// Rendered, taken back, kept as versions, rung out, changed long after: by pointer and by key, kept after a reload, heard in the export.
import {
  addStep,
  backTo,
  bench,
  clip,
  difference,
  expect,
  expectAccessible,
  exported,
  importFiles,
  newProject,
  noiseFile,
  openDemo,
  peakDb,
  place,
  projectWithClip,
  saved,
  shelf,
  stepRows,
  test,
  toneFile,
  type,
  undo,
  wavFile
} from "./wring";
import { noise } from "../core/signals";

const RATE = 48000;

test("the theme rings out over its end, with its closing fade before the reverb; all of it is taken back", async ({
  page
}) => {
  await openDemo(page);
  const before = await undo(page).textContent();
  const first = await exported(page);
  await clip(page, "Theme, close").click();
  // Without its fade it stops dead.
  await page.keyboard.press("Shift+f");
  const over = first.left.length / RATE;
  await addStep(page, "ending that rings");
  await expect(stepRows(page)).toHaveCount(1);
  await page.getByRole("heading", { name: "Reverb" }).click();
  await page.keyboard.press("Shift+e");
  await page
    .getByRole("combobox", { name: "After its end" })
    .selectOption({ label: "rings out until it is quiet" });
  await expect(page.getByText("its closing fade lies before the chain")).toBeVisible();
  await expectAccessible(page, "#bench");
  await saved(page);
  await page.reload();
  await clip(page, "Theme, close").click();
  const rung = await exported(page);
  // 3.2 s to 60 dB: 90 dB are reached after half as much again.
  expect(rung.left.length / RATE).toBeGreaterThan(over + 4);
  expect(peakDb(rung.left, over, over + 0.5)).toBeGreaterThan(peakDb(rung.left, over - 3, over) - 40);
  expect(peakDb(rung.left, over + 4, over + 5)).toBeLessThan(peakDb(rung.left, over, over + 0.5) - 40);
  // By key off and on again, typed to a second: then it ends there.
  await page.keyboard.press("Shift+o");
  await page.keyboard.press("Shift+o");
  await page.keyboard.press("Shift+e");
  await page.getByRole("combobox", { name: "After its end" }).selectOption({ label: "rings out for" });
  await type(page, "Length of the ring-out", "1 s");
  await saved(page);
  const typed = await exported(page);
  expect(typed.left.length / RATE).toBeCloseTo(over + 1, 1);
  await backTo(page, before);
  expect(difference((await exported(page)).left, first.left)).toBe("none");
});

test("renders reach up to a step, are named, make versions, and are restored; the export stays the same throughout", async ({
  page
}) => {
  await projectWithClip(page, "Renders", noiseFile("Take.wav", 61, 3));
  await addStep(page, "ga");
  await type(page, "Gain", "-6");
  await addStep(page, "limi");
  await saved(page);
  const live = await exported(page);
  await clip(page, "Take").click();
  await page.keyboard.press("r");
  await page.getByLabel("Up to the step").selectOption({ label: "1 Gain; later ones play live" });
  await page.getByRole("textbox", { name: "Name of the recording" }).fill("Lower");
  await expectAccessible(page, ".bx--modal");
  await page.getByRole("button", { name: "Render", exact: true }).click();
  await expect(bench(page, "Versions 1")).toBeVisible();
  await expect(stepRows(page).first()).toContainText("rendered");
  await expect(stepRows(page).nth(1)).not.toContainText("rendered");
  expect(difference((await exported(page)).left, live.left)).toBe("none");
  await clip(page, "Take").click();
  await page.keyboard.press("r");
  await page.getByText("The whole recording behind it").click();
  await page.getByRole("button", { name: "Render", exact: true }).click();
  await expect(bench(page, "Versions 2")).toBeVisible();
  await saved(page);
  await page.reload();
  await clip(page, "Take").click();
  await bench(page, "Versions 2").click();
  const versions = page.getByRole("region", { name: "Versions" });
  await expect(versions.getByRole("textbox", { name: /^Name of version/ }).first()).toHaveValue(
    "Take, Gain, Limiter 1"
  );
  await expect(versions.getByRole("textbox", { name: /^Name of version/ }).nth(1)).toHaveValue("Lower 1");
  expect(difference((await exported(page)).left, live.left)).toBe("none");
  await bench(page, "Restore").click();
  await expect(stepRows(page).first()).not.toContainText("rendered");
  expect(difference((await exported(page)).left, live.left)).toBe("none");
  // Square one: the chain goes, the versions stay; going back brings the chain and its render.
  await page.getByRole("button", { name: "Find" }).click();
  await page.keyboard.type("square one");
  await page.keyboard.press("Enter");
  await expect(stepRows(page)).toHaveCount(0);
  await versions.getByRole("button", { name: "Go back to Take, Gain, Limiter 1" }).click();
  await expect(stepRows(page)).toHaveCount(2);
  await expect(versions.getByText("as now")).toBeVisible();
  expect(difference((await exported(page)).left, live.left)).toBe("none");
});

test("a second version lies beside the first on its own track, and what mono does to both is read off", async ({
  page
}) => {
  await projectWithClip(page, "Beside", noiseFile("Voice.wav", 62, 3));
  const first = await exported(page);
  const before = await undo(page).textContent();
  await clip(page, "Voice").click();
  await page.keyboard.press("Shift+v");
  await expect(
    page.getByRole("region", { name: "Versions" }).getByRole("textbox", { name: /^Name of version/ })
  ).toHaveValue("State 1");
  await addStep(page, "ga");
  await type(page, "Gain", "-6");
  await page.getByRole("heading", { name: "Gain" }).click();
  // Kept at once, while its levels are still being measured: it waits for them.
  await page.keyboard.press("Shift+v");
  const loudness = page
    .getByRole("region", { name: "Versions" })
    .locator("tbody td:nth-of-type(3), tbody td:nth-of-type(4)")
    .filter({ hasText: /^-\d+\.\d$/ });
  await expect(loudness).toHaveCount(2);
  const [now, then] = (await loudness.allTextContents()).map(Number);
  expect(now - then).toBeCloseTo(-6, 1);
  await page.getByRole("button", { name: "Put State 1 on a track beside" }).click();
  const mono = page.getByRole("status", { name: "In mono" });
  // Alike but for 6 dB: ρ = 1, and 10·log((1 + g)² / (2·(1 + g²))) with g = 0.501 is -0.46 dB.
  await expect(mono).toContainText("correlation +1.00, 0.5 dB are lost");
  await saved(page);
  await page.reload();
  await expect(clip(page, "Voice, State 1")).toBeVisible();
  const both = await exported(page);
  expect(peakDb(both.left, 0, 3) - peakDb(first.left, 0, 3)).toBeCloseTo(20 * Math.log10(1.5012), 1);
  // Turned over, the two cancel where they are alike: what is left is their difference of 6 dB.
  await clip(page, "Voice").click();
  await addStep(page, "polarity");
  await page.getByRole("checkbox", { name: "Left" }).check({ force: true });
  await page.getByRole("checkbox", { name: "Right" }).check({ force: true });
  await clip(page, "Voice, State 1").click({ modifiers: ["Control"] });
  await expect(mono).toContainText("correlation -1.00");
  await expect(mono).toContainText("they cancel");
  await expectAccessible(page, "#bench");
  await saved(page);
  await backTo(page, before);
  await expect(clip(page, "Voice, State 1")).toHaveCount(0);
  expect(difference((await exported(page)).left, first.left)).toBe("none");
});

test("a fade and a noise reduction on a recording reach all its clips, are changed later, and are both taken off", async ({
  page
}) => {
  // Words over a steady noise.
  const words = noise(4 * RATE, 0.005, 63).map(
    (x, i) => x + (i % RATE < RATE / 2 ? 0.2 * Math.sin((2 * Math.PI * 440 * i) / RATE) : 0)
  );
  await projectWithClip(page, "Shared", wavFile("Room.wav", words));
  await type(page, "Position", "0:05");
  await place(page, "Room");
  await page.getByRole("button", { name: "Show the whole programme" }).click();
  const first = await exported(page);
  const clips = clip(page, "Room");
  await expect(clips).toHaveCount(2);
  await clips.first().click();
  await addStep(page, "noise red");
  await saved(page);
  const one = await exported(page);
  expect(difference(one.left.slice(5 * RATE), first.left.slice(5 * RATE))).toBe("none");
  await clips.first().click();
  await bench(page, "used by 1 other").click();
  await page.getByRole("menuitem", { name: /Treat all clips of the recording/ }).click();
  await expect(page.getByRole("list", { name: "Clips that will hear it" }).getByRole("listitem")).toHaveCount(
    2
  );
  await page.getByRole("button", { name: "Treat all of them" }).click();
  await expect(page.getByText("heard by 2 clips")).toBeVisible();
  // Neither has steps of its own now; both say what treats them.
  for (const one of await clips.all())
    await expect(one).toHaveAttribute("aria-label", /0 steps, untreated \(its recording has a chain\)/);
  await type(page, "Reduction", "20");
  await saved(page);
  const all = await exported(page);
  expect(difference(all.left.slice(0, 4 * RATE), all.left.slice(5 * RATE, 9 * RATE))).toBe("none");
  expect(difference(all.left, first.left)).not.toBe("none");
  // A fade into the recording, over its first second.
  await clips.first().click();
  await type(page, "Range from", "0:00");
  await type(page, "Range to", "0:01");
  await page.getByRole("button", { name: "Find" }).click();
  await page.keyboard.type("fade the recording");
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: "Fade the recording" }).click();
  await expect(stepRows(page)).toHaveCount(2);
  await saved(page);
  await page.reload();
  const faded = await exported(page);
  expect(peakDb(faded.left, 5, 5.05)).toBeLessThan(peakDb(all.left, 5, 5.05) - 20);
  await page.reload();
  await clips.first().click();
  await page.keyboard.press("Alt+h");
  const history = page.getByRole("list", { name: "Processes" });
  await expect(history).toContainText("The chain of Room, for all its clips");
  await history.getByRole("button", { name: /^Remove Fade/ }).click();
  await history.getByRole("button", { name: /^Remove Noise reduction/ }).click();
  await saved(page);
  expect(difference((await exported(page)).left, first.left)).toBe("none");
});

test("a process far back in a history is changed, and what came after it is computed again", async ({
  page
}) => {
  await projectWithClip(page, "Far back", toneFile("Tone.wav", -20, 3));
  await addStep(page, "ga");
  await type(page, "Gain", "-6");
  await saved(page);
  await page.keyboard.press("Escape");
  await clip(page, "Tone").click();
  await page.keyboard.press("r");
  await page.getByRole("button", { name: "Render", exact: true }).click();
  await expect(bench(page, "Versions 1")).toBeVisible();
  await type(page, "Position", "0:05");
  await place(page, "Tone, Gain 1");
  await page.getByRole("button", { name: "Show the whole programme" }).click();
  await addStep(page, "ga");
  await type(page, "Gain", "3");
  await saved(page);
  const before = await exported(page);
  expect(peakDb(before.left, 5.5, 7.5)).toBeCloseTo(-23, 1);
  await clip(page, "Tone, Gain 1").click();
  await page.keyboard.press("Alt+h");
  await expect(page.getByRole("heading", { name: "History of Tone, Gain 1: 2 processes" })).toBeVisible();
  const list = page.getByRole("list", { name: "Processes" });
  await list.getByRole("button", { name: "Gain -6.0 dB", exact: true }).click();
  await list.getByRole("textbox", { name: "Gain" }).fill("-12");
  await list.getByRole("textbox", { name: "Gain" }).press("Enter");
  await expectAccessible(page, "#bench");
  await page.getByRole("button", { name: "Compute again" }).click();
  await expect(undo(page)).toContainText("change the history of Tone, Gain 1");
  await saved(page);
  await page.reload();
  const after = await exported(page);
  expect(peakDb(after.left, 5.5, 7.5)).toBeCloseTo(-29, 1);
  expect(difference(after.left.slice(0, 3 * RATE), before.left.slice(0, 3 * RATE))).toBe("none");
  await undo(page).click();
  await saved(page);
  expect(difference((await exported(page)).left, before.left)).toBe("none");
  // The process leaves the render for the clip's own chain: heard as before, and live now.
  await clip(page, "Tone, Gain 1").click();
  await page.keyboard.press("Alt+h");
  await list.getByRole("button", { name: "Later: Gain -6.0 dB" }).click();
  await expect(list).toContainText("The clip's own chain (changed, not computed yet)");
  await page.getByRole("button", { name: "Compute again" }).click();
  await expect(undo(page)).toContainText("change the history of Tone, Gain 1");
  await expect(stepRows(page)).toHaveCount(2);
  await saved(page);
  await page.reload();
  expect(peakDb((await exported(page)).left, 5.5, 7.5)).toBeCloseTo(-23, 1);
  await clip(page, "Tone, Gain 1").click();
  await expect(stepRows(page)).toHaveText([/Gain -6\.0 dB/, /Gain \+3\.0 dB/]);
});

test("several clips become one recording, muted below it; recordings that nothing uses go to the bin and come back", async ({
  page
}) => {
  await newProject(page, "Clean");
  await importFiles(
    page,
    toneFile("High.wav", -20, 2),
    toneFile("Low.wav", -26, 2),
    toneFile("Spare.wav", -31, 2)
  );
  await shelf(page, true);
  for (const name of ["High", "Low", "Spare"])
    await expect(page.getByRole("group", { name, exact: true })).toBeVisible();
  await saved(page);
  for (const [i, name] of ["High", "Low"].entries()) {
    await type(page, "Position", `0:0${2 * i}`);
    await place(page, name);
  }
  await page.getByRole("button", { name: "Show the whole programme" }).click();
  const before = await exported(page);
  await clip(page, "High").click();
  await clip(page, "Low").click({ modifiers: ["Control"] });
  await page
    .getByRole("heading", { level: 1 })
    .focus()
    .catch(() => undefined);
  await clip(page, "Low").press("r");
  await page.getByText("One recording of all together").click();
  await page.getByRole("button", { name: "Render", exact: true }).click();
  await expect(clip(page, "High, Low, together 1")).toBeVisible();
  await saved(page);
  expect(difference((await exported(page)).left, before.left)).toBe("none");
  await page.getByRole("button", { name: "Find" }).click();
  await page.keyboard.type("clean up");
  await page.keyboard.press("Enter");
  const unused = page.getByRole("list", { name: "Recordings that nothing uses" });
  await expect(unused.getByRole("listitem")).toHaveCount(1);
  await expect(unused).toContainText("0.2 MB");
  await expectAccessible(page, ".bx--modal");
  await page.getByRole("button", { name: "Move 1 to the bin" }).click();
  await expect(page.getByRole("list", { name: "Recordings in the bin" })).toContainText("Spare");
  await page.getByRole("button", { name: "Close", exact: true }).first().click();
  await saved(page);
  await page.reload();
  await shelf(page, true);
  await expect(page.getByRole("group", { name: "High", exact: true })).toBeVisible();
  await expect(page.getByRole("group", { name: "Spare", exact: true })).toHaveCount(0);
  await undo(page).click();
  await expect(page.getByRole("group", { name: "Spare", exact: true })).toBeVisible();
});

test("how long a clip rings is measured by its sound", async ({ page }) => {
  await projectWithClip(page, "Measured", toneFile("Note.wav", -20, 2));
  await addStep(page, "ending that rings");
  await page.getByRole("heading", { name: "Reverb" }).click();
  await page.keyboard.press("Shift+o");
  await page.keyboard.press("Shift+e");
  const way = page.getByRole("combobox", { name: "After its end" });
  await expect(way.locator("option:checked")).toHaveText("rings out until it is quiet");
  await saved(page);
  const whole = await exported(page);
  await page.getByRole("button", { name: "Measure", exact: true }).click();
  await expect(way.locator("option:checked")).toHaveText("rings out for");
  await saved(page);
  await page.reload();
  await clip(page, "Note").click();
  const measured = await exported(page);
  expect(measured.left.length).toBeLessThan(whole.left.length);
  // What was cut lies 60 dB under the clip's peak, and what was left does not.
  const end = measured.left.length / RATE;
  const peak = peakDb(whole.left, 0, 2);
  expect(peakDb(whole.left, end, whole.left.length / RATE)).toBeLessThan(peak - 59);
  expect(peakDb(whole.left, end - 0.1, end)).toBeGreaterThan(peak - 66);
});

test("a range of a treated clip is rendered: it is cut, sounds as before, comes to the bench; its chain begins anew when asked to", async ({
  page
}) => {
  const loudAndQuiet = noise(48000 * 4, 0.5, 91).map(
    (x, i) => x * (Math.floor(i / 9000) % 2 === 0 ? 1 : 0.06)
  );
  await projectWithClip(page, "Cut and rendered", wavFile("Take.wav", loudAndQuiet));
  await addStep(page, "compr");
  await type(page, "Threshold", "-40");
  await saved(page);
  const whole = await exported(page);
  await type(page, "Range from", "1.3");
  await type(page, "Range to", "2.1");
  await bench(page, "Render").click();
  await page.getByRole("button", { name: "Render", exact: true }).click();
  await expect(bench(page, "Versions 1")).toBeVisible();
  await expect(page.locator("[data-clip]")).toHaveCount(3);
  await expect(page.locator("[data-clip]").nth(1)).toHaveAttribute("aria-pressed", "true");
  // An emptied field lets the range go.
  await type(page, "Range from", "");
  await expect(page.getByRole("textbox", { name: "Range to" })).toHaveValue("–");
  await saved(page);
  await page.reload();
  const cut = await exported(page);
  expect(difference(cut.left, whole.left)).toBe("none");
  await page.locator("[data-clip]").nth(2).click();
  await page.getByRole("button", { name: "Begin anew here" }).click();
  await expect(page.getByRole("button", { name: "Begin anew here" })).toBeHidden();
  const anew = await exported(page);
  expect(difference(anew.left.slice(0, 100800), whole.left.slice(0, 100800))).toBe("none");
  expect(difference(anew.left, whole.left)).not.toBe("none");
  await undo(page).click();
  expect(difference((await exported(page)).left, whole.left)).toBe("none");
});
