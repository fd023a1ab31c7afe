// Chains of recordings, tracks and the mix, and steps that treat a part: made on the bench, kept, heard in the export.
import type { Page } from "@playwright/test";
import {
  addStep,
  clip,
  expect,
  expectAccessible,
  exported,
  openDemo,
  projectWithClip,
  saved,
  stepRows,
  test,
  toneFile,
  type,
  shelf
} from "./wring";

/** Largest magnitude between two times, in dBFS. */
function peakDb(x: Float32Array, from: number, to: number): number {
  const part = x.subarray(Math.round(from * 48000), Math.round(to * 48000));
  return 20 * Math.log10(part.reduce((a, v) => Math.max(a, Math.abs(v)), 0));
}

const heads = {
  track: (page: Page) => page.getByRole("button", { name: /^Chain of Track 1/ }),
  mix: (page: Page) => page.getByRole("button", { name: /^Chain of the mix/ }),
  recording: (page: Page, name: string) =>
    page.getByRole("button", { name: `Treat ${name} for all its clips` })
};

test("a track, the mix and a recording have chains of their own: opened by key and pointer, kept, and heard in the export", async ({
  page
}) => {
  await projectWithClip(page, "Owners", toneFile("Owned.wav", -20));
  await heads.track(page).focus();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("heading", { name: "Track Track 1" })).toBeVisible();
  await addStep(page, "ga");
  await type(page, "Gain", "-6");
  await expect(stepRows(page).first()).toContainText("-20.0 → -26.0");

  await heads.mix(page).click();
  await expect(page.getByRole("heading", { name: "The programme" })).toBeVisible();
  await addStep(page, "ga");
  await type(page, "Gain", "-3");
  await expect(stepRows(page).first()).toContainText("-26.0 → -29.0");

  await shelf(page, true);
  await page.getByRole("group", { name: "Owned", exact: true }).hover();
  await heads.recording(page, "Owned").click();
  await shelf(page, false);
  await expect(page.getByText("heard by 1 clip: Owned")).toBeVisible();
  await addStep(page, "ga");
  await type(page, "Gain", "+1");
  await expect(stepRows(page).first()).toContainText("-20.0 → -19.0");
  // Without a range a part is typed: of a recording in its own time.
  await page.getByRole("button", { name: "A part…" }).click();
  await type(page, "Span of Gain begins", "0:01");
  await expect(stepRows(page).first()).toContainText("0:01.0–0:04.0");
  await page.getByRole("button", { name: "All", exact: true }).click();
  await saved(page);

  await page.reload();
  await expect(heads.track(page)).toHaveAccessibleName("Chain of Track 1, 1 step");
  await expect(heads.mix(page)).toHaveAccessibleName("Chain of the mix, 1 step");
  const { left, said } = await exported(page);
  expect(said).toContain("-28.0 LUFS");
  expect(peakDb(left, 1, 3)).toBeCloseTo(-28, 1);

  for (const what of [
    /^Undo: Gain over all/,
    /^Undo: trim the span/,
    /^Undo: Gain: span/,
    /^Undo: Gain: gain/
  ])
    await page.getByRole("button", { name: what }).click();
  await page.getByRole("button", { name: /^Undo: add Gain to Owned/ }).click();
  expect((await exported(page)).said).toContain("-29.0 LUFS");
});

test("what must hear all of its sound first is refused on the mix in a sentence; what can do without is added so that it does", async ({
  page
}) => {
  await projectWithClip(page, "Refused", toneFile("Refused.wav", -21));
  await heads.mix(page).click();
  await addStep(page, "normalize");
  await expect(
    page.getByText(/Normalize has to hear all of its sound first, so it cannot be on the mix/)
  ).toBeVisible();
  await expect(stepRows(page)).toHaveCount(0);
  await addStep(page, "hum");
  await expect(stepRows(page)).toHaveCount(1);
  await expect(page.getByRole("combobox", { name: "Mains" })).toHaveValue("50");
});

test("a step added with a range selected treats that part alone: shown, drawn, typed, kept, and heard in the export", async ({
  page
}) => {
  await projectWithClip(page, "Spans", toneFile("Parts.wav", -20));
  await type(page, "Range from", "0:01");
  await type(page, "Range to", "0:02");
  await addStep(page, "ga");
  await type(page, "Gain", "-12");
  await expect(stepRows(page).first()).toContainText("0:01.0–0:02.0");
  const band = page.locator("[data-span]");
  const edges = async () => {
    const [box, card] = [await band.boundingBox(), await clip(page, "Parts").boundingBox()];
    if (!box || !card) throw new Error("the band is not drawn");
    return [(box.x - card.x) / card.width, (box.x + box.width - card.x) / card.width];
  };
  const [from, to] = await edges();
  expect(from).toBeCloseTo(0.25, 1);
  expect(to).toBeCloseTo(0.5, 1);

  await type(page, "Span of Gain ends", "0:03");
  await type(page, "Blend of Gain", "100 ms");
  await expect(stepRows(page).first()).toContainText("0:01.0–0:03.0");
  await saved(page);
  await page.reload();
  await clip(page, "Parts").click();
  await expect(page.getByRole("textbox", { name: "Blend of Gain" })).toHaveValue("100 ms");
  const { left } = await exported(page);
  expect(peakDb(left, 0.1, 0.99)).toBeCloseTo(-20, 2);
  expect(peakDb(left, 1.11, 2.89)).toBeCloseTo(-32, 2);
  expect(peakDb(left, 3.01, 3.9)).toBeCloseTo(-20, 2);
  expect(peakDb(left, 1.04, 1.06)).toBeGreaterThan(-27);

  await page.getByRole("button", { name: "All", exact: true }).click();
  await expect(stepRows(page).first()).toContainText("all");
  await expect(band).toHaveCount(0);
  expect(peakDb((await exported(page)).left, 0.1, 3.9)).toBeCloseTo(-32, 2);
});

test("clips that were linked share one chain, until one gets its own", async ({ page }) => {
  await projectWithClip(page, "Linked", toneFile("First.wav", -20));
  await addStep(page, "ga");
  await page.keyboard.press("Escape");
  await clip(page, "First").focus();
  await page.keyboard.press("d");
  const both = clip(page, "First");
  await expect(both).toHaveCount(2);
  const act = async (name: string) => {
    await page.keyboard.press("Control+k");
    const field = page.getByRole("combobox", { name: /action/i });
    await field.fill(name);
    await field.press("Enter");
    await expect(page.getByRole("dialog")).toHaveCount(0);
  };
  await both.first().click();
  await both.nth(1).click({ modifiers: ["Shift"] });
  await act("Let the selected clips share");
  await both.nth(1).click();
  await expect(page.getByText("shares its chain with 1 other")).toBeVisible();
  await type(page, "Gain", "-9");
  await saved(page);
  await page.reload();
  await both.first().click();
  await expect(page.getByRole("textbox", { name: "Gain", exact: true })).toHaveValue("-9.0 dB");
  await act("Unlink");
  await expect(page.getByText("shares its chain")).toHaveCount(0);
});

test("the mix of the demo is on the bench when nothing is selected, measured, and accessible", async ({
  page
}) => {
  await openDemo(page);
  await expect(page.getByRole("heading", { name: "The programme" })).toBeVisible();
  await expect(stepRows(page).first()).toContainText(/Limiter.*-2\d\.\d → -2\d\.\d/s);
  await expectAccessible(page);
  await page.getByRole("button", { name: "Chain of Narrator, 1 step" }).click();
  await expect(page.getByRole("heading", { name: "Track Narrator" })).toBeVisible();
  await expectAccessible(page);
});
