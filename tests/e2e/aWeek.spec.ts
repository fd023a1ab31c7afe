// A week's work on the demo: a chain on ten recordings at once, a recording treated for all its clips, a second version beside the first; all
// of it taken back to the first state, sample for sample. First of all by its name, since it takes the longest.
import {
  addStep,
  backTo,
  bench,
  clip,
  difference,
  expect,
  exported,
  openDemo,
  peakDb,
  saved,
  savePreset,
  screen,
  stepRows,
  test,
  type,
  undo
} from "./wring";

test("the demo is treated for a week, and all of it is taken back", async ({ page }) => {
  test.setTimeout(240000);
  page.setDefaultTimeout(20000);
  await openDemo(page);
  const before = await undo(page).textContent();
  const first = await exported(page);

  // A weekly chain, saved, on ten recordings in one action.
  await clip(page, "Sixty-one years").click();
  await addStep(page, "parametric");
  await addStep(page, "compr");
  await savePreset(page, "Ferry week", "weekly");
  await screen(page, "Batch").click();
  await page.getByRole("combobox", { name: "Preset", exact: true }).selectOption({ label: "Ferry week" });
  await page.getByText("Bring each to a level last, by one gain").click();
  await type(page, "Level", "-23");
  await page.getByRole("button", { name: "None" }).click();
  await page.getByRole("radio", { name: "Recordings" }).click();
  const boxes = page.locator(".sounds").getByRole("checkbox");
  for (let i = 1; i <= 10; i++) await boxes.nth(i).check({ force: true });
  await expect(page.getByText("10 chosen")).toBeVisible();
  await page.getByRole("button", { name: "Treat 10 recordings" }).click();
  const report = page.getByRole("article", { name: "Batch Ferry week" });
  await expect(report.getByText("10 done")).toBeVisible({ timeout: 120000 });
  await expect(report.getByText(/→ -23\.0/)).toHaveCount(10);
  await screen(page, "Edit").click();
  await expect(undo(page)).toContainText("batch: Ferry week");
  const untouched = await exported(page);

  // Noise reduction and a fade on the wind, for both its clips; one is changed later, then both are taken off.
  await clip(page, "Wind, morning").click();
  await addStep(page, "noise red");
  await bench(page, "used by 1 other").click();
  await page.getByRole("menuitem", { name: /Treat all clips of the recording/ }).click();
  await page.getByRole("button", { name: "Treat all of them" }).click();
  await expect(page.getByText("heard by 2 clips")).toBeVisible();
  await clip(page, "Wind, evening").click();
  await type(page, "Range from", "1:43");
  await type(page, "Range to", "1:46");
  await page.keyboard.press("Control+k");
  await page.keyboard.type("fade the recording");
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: "Fade the recording" }).click();
  await expect(stepRows(page)).toHaveCount(2);
  await saved(page);
  await page.reload();
  await clip(page, "Wind, evening").click();
  const treated = await exported(page);
  // The end of the evening is wind alone.
  expect(difference(treated.left, untouched.left)).not.toBe("none");
  // Changed later, from the history of a clip that hears it.
  await page.keyboard.press("Alt+h");
  const history = page.getByRole("list", { name: "Processes" });
  await history.getByRole("button", { name: /^Noise reduction/ }).click();
  await type(page, "Reduction", "6");
  await saved(page);
  const less = await exported(page);
  const [a, b, c] = [untouched, less, treated].map(({ left }) => peakDb(left, 105, 108));
  expect(b).toBeLessThanOrEqual(a + 0.5);
  expect(c).toBeLessThanOrEqual(b + 0.5);
  await clip(page, "Wind, morning").click();
  await page.keyboard.press("Alt+h");
  await history.getByRole("button", { name: /^Remove Fade/ }).click();
  await history.getByRole("button", { name: /^Remove Noise reduction/ }).click();
  await saved(page);
  expect(difference((await exported(page)).left, untouched.left)).toBe("none");

  // A second version beside the first on its own track, and what mono does to the two.
  await clip(page, "Down below").click();
  await page.keyboard.press("Shift+v");
  await addStep(page, "ga");
  await type(page, "Gain", "-6");
  await page.getByRole("heading", { name: "Gain" }).click();
  await page.keyboard.press("Alt+v");
  await page.getByRole("button", { name: "Put State 1 on a track beside" }).click();
  await expect(clip(page, "Down below, State 1")).toBeInViewport();
  await expect(page.getByRole("status", { name: "In mono" })).toContainText(
    "correlation +1.00, 0.5 dB are lost"
  );
  await saved(page);
  await page.reload();
  await expect(clip(page, "Down below, State 1")).toBeVisible();
  const both = await exported(page);
  expect(difference(both.left, untouched.left)).not.toBe("none");

  await backTo(page, before);
  await page.reload();
  await expect(clip(page, "Down below, State 1")).toHaveCount(0);
  expect(difference((await exported(page)).left, first.left)).toBe("none");
  const presets = (await (await page.request.get("/api/presets")).json()) as { id: string; name: string }[];
  const own = presets.find(({ name }) => name === "Ferry week");
  expect((await page.request.delete(`/api/presets/${own?.id ?? ""}`)).ok()).toBe(true);
});
