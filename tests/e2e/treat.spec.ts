import { readFileSync } from "node:fs";
import {
  addStep,
  boxOf,
  clip,
  expect,
  expectAccessible,
  noiseFile,
  openDemo,
  projectWithClip,
  recording,
  saved,
  stepRows,
  test,
  toneFile,
  type,
  shelf
} from "./wring";

test("the edit screen fits 1280×800, with a treated clip on the bench, accessible", async ({ page }) => {
  await openDemo(page);
  await clip(page, "Engineer 2").click();
  await expect(page.getByText("measuring levels…")).toBeHidden();
  await expectAccessible(page);
  const overflow = await page.evaluate(() => [
    document.documentElement.scrollWidth > innerWidth,
    document.documentElement.scrollHeight > innerHeight
  ]);
  expect(overflow).toEqual([false, false]);
});

for (const opener of ["Measure…", "Save preset…", "Render…", "Export…", "Find"])
  test(`the dialog of ${opener} is accessible and closes by the keyboard`, async ({ page }) => {
    await openDemo(page);
    await clip(page, "Engineer 2").click();
    await page.getByRole("button", { name: opener, exact: true }).click();
    await expect(page.getByRole("dialog").first()).toBeVisible();
    await expectAccessible(page, "[role=dialog], dialog");
    await page.keyboard.press("Escape");
    await expect(page.getByRole("dialog")).toHaveCount(0);
  });

test("each state of a clip is shown on its hem in the demo", async ({ page }) => {
  await openDemo(page);
  await expect(clip(page, "Sixty-one years")).toHaveAttribute("aria-label", /untreated/);
  await expect(clip(page, "Engineer 1")).toHaveAttribute("aria-label", /4 steps, rendered/);
  await expect(clip(page, "Engineer 2")).toHaveAttribute("aria-label", /4 steps, live/);
  await expect(clip(page, "Engineer 3")).toHaveAttribute("aria-label", /no longer matches/);
  await expect(clip(page, "Harbour office 2")).toHaveAttribute("aria-label", /all steps off/);
});

test("steps are added by a few letters, set, switched, moved and removed; the sheet measures after each", async ({
  page
}) => {
  await projectWithClip(page, "Steps", toneFile("Tone.wav", -30));
  await addStep(page, "ga");
  await type(page, "Gain", "+12");
  await expect(stepRows(page).first()).toContainText("-30.0 → -18.0");
  await addStep(page, "comp");
  await expect(page.getByRole("img", { name: /^Transfer curve/ })).toBeVisible();
  await type(page, "Threshold", "-30");
  await type(page, "Ratio", "4");
  await type(page, "Knee", "0");
  await expect(
    page.getByRole("img", {
      name: "Transfer curve: -40 dB in gives -40.0 dB out, 0 dB in gives -22.5 dB out"
    })
  ).toBeVisible();
  await addStep(page, "para");
  await page.locator("label").filter({ hasText: "Band 2, on" }).click();
  await expect(page.getByRole("checkbox", { name: "Band 2, on" })).toBeChecked();
  await type(page, "Band 2, frequency", "997");
  await type(page, "Band 2, gain", "-6");
  await expect(page.getByRole("img", { name: "Frequency response, 1 bands on" })).toBeVisible();
  await addStep(page, "lim");
  await expect(stepRows(page)).toHaveCount(4);
  await expect(stepRows(page).nth(2)).toContainText("-27.0 → -33.0");

  await page.getByRole("button", { name: /^1\s*Gain/ }).press("Alt+ArrowDown");
  await expect(stepRows(page).first()).toContainText("Compressor");
  await expect(page.getByRole("button", { name: "Undo: move Gain of Tone" })).toBeVisible();
  await page.getByRole("switch", { name: "Limiter on" }).click();
  await expect(page.getByRole("switch", { name: "Limiter off" })).toBeVisible();
  await page.getByRole("button", { name: "Remove Limiter" }).click();
  await expect(stepRows(page)).toHaveCount(3);
  // A value out of range is refused where it is typed.
  await page.getByRole("button", { name: /Gain\s*\+12/ }).click();
  const gain = page.getByRole("textbox", { name: "Gain", exact: true });
  await gain.fill("900");
  await gain.press("Enter");
  await expect(gain).toHaveAttribute("aria-invalid", "true");
  const fault = page.getByRole("alert").filter({ hasText: "Gain takes -60.0 dB to +48.0 dB, not “900”." });
  await expect(fault).toBeVisible();
  await expect(gain).toHaveAccessibleDescription("Gain takes -60.0 dB to +48.0 dB, not “900”.");
  await gain.press("Escape");
  await expect(fault).toBeHidden();
  // Left with such a value, the field says what it stays at.
  const trackGain = page.getByRole("textbox", { name: /^Gain of .* in dB$/ }).first();
  await trackGain.fill("loud");
  await trackGain.press("Tab");
  await expect(page.getByRole("region", { name: "Messages" }).getByRole("status")).toContainText(
    /Note:\s*Gain of .* takes -96 to 48 dB, not “loud”\. It stays at /
  );
});

test("a step is dragged to another place", async ({ page }) => {
  await projectWithClip(page, "Drag a step", toneFile("Tone.wav", -29));
  await addStep(page, "gain");
  await addStep(page, "lim");
  // What is measured adds lines to the rows: they rest once both are.
  const first = stepRows(page).first();
  await expect(first).toContainText("It changes nothing of this sound");
  await expect(page.getByText("measuring levels…")).toBeHidden();
  const from = await boxOf(stepRows(page).nth(1).locator(".grip"));
  const to = await boxOf(first);
  await page.mouse.move(from.x + 6, from.y + 8);
  await page.mouse.down();
  await page.mouse.move(from.x + 10, from.y - 4, { steps: 4 });
  await expect(async () => {
    await page.mouse.move(to.x + 14, to.y + 8);
    await page.mouse.move(to.x + 10, to.y + 4, { steps: 4 });
    // What is pulled is hidden in the list: the gain is the first that shows, in the second place.
    await expect(first).toHaveAttribute("data-row", "1", { timeout: 1000 });
  }).toPass();
  await page.mouse.up();
  await expect(stepRows(page).first()).toContainText("Limiter");
  await expect(page.getByRole("button", { name: "Undo: move Limiter of Tone" })).toBeVisible();
});

test("fades are dragged and typed, with a choice of curves, and drawn on the waveform", async ({ page }) => {
  const name = await projectWithClip(page, "Fades", toneFile("Tone.wav", -6));
  const pixels = () =>
    page
      .locator("[data-lane] canvas")
      .first()
      .evaluate((c: HTMLCanvasElement) => c.toDataURL());
  await page.waitForTimeout(300);
  const plain = await pixels();
  const grip = await clip(page, name).boundingBox();
  if (!grip) throw new Error("no grip");
  await page.mouse.move(grip.x + 5, grip.y + 5);
  await page.mouse.down();
  await page.mouse.move(grip.x + 205, grip.y + 5, { steps: 6 });
  await page.mouse.up();
  const length = page.getByRole("textbox", { name: "Fade in length" });
  await expect.poll(async () => Number.parseFloat(await length.inputValue())).toBeGreaterThan(0.5);
  await expect(page.getByRole("button", { name: "Undo: fade in of Tone" })).toBeVisible();
  await expect.poll(pixels).not.toBe(plain);
  await type(page, "Fade out length", "1.25 s");
  await expect(page.getByRole("textbox", { name: "Fade out length" })).toHaveValue("1.250 s");
  const straight = await pixels();
  for (const curve of ["equal power", "S-shaped"]) {
    await page.getByRole("combobox", { name: "Fade out curve" }).selectOption({ label: curve });
    await expect.poll(pixels).not.toBe(straight);
  }
  await page.getByRole("textbox", { name: "Fade out length" }).dblclick();
  await expect(page.getByRole("textbox", { name: "Fade out length" })).toHaveValue("0.000 s");
});

test("render, change, render again, restore: the hem tells each state", async ({ page }) => {
  const name = await projectWithClip(page, "Render", noiseFile("Speech.wav", 8));
  const state = (text: RegExp) => expect(clip(page, name)).toHaveAttribute("aria-label", text);
  await expect(page.getByRole("button", { name: "Render…" })).toBeDisabled();
  await addStep(page, "comp");
  await state(/1 step, live/);
  await page.getByRole("button", { name: "Render…" }).click();
  await page.getByRole("button", { name: "Render", exact: true }).click();
  await state(/1 step, rendered/);
  await shelf(page, true);
  await expect(recording(page, "Speech, Compressor 1")).toBeVisible();
  await shelf(page, false);
  await type(page, "Threshold", "-40");
  await state(/no longer matches/);
  await expect(page.getByText("Render is stale")).toBeVisible();
  await page.getByRole("button", { name: "Render again…" }).click();
  await page.getByRole("button", { name: "Render", exact: true }).click();
  await state(/1 step, rendered/);
  await page.getByRole("button", { name: "Restore" }).click();
  await state(/1 step, live/);
  await page.getByRole("button", { name: /^Undo: restore/ }).click();
  await state(/1 step, rendered/);
});

test("a clip is measured with and without treatment, and normalized", async ({ page }) => {
  await projectWithClip(page, "Measure", toneFile("Tone.wav", -30));
  await addStep(page, "gain");
  await type(page, "Gain", "6");
  await page.getByRole("button", { name: "Measure…" }).click();
  const row = page.locator("[data-row=integratedLufs]");
  // 997 Hz on both sides: its loudness is its peak level (BS.1770).
  await expect(row).toContainText("-30.0-24.0");
  await expect(page.locator("[data-row=truePeakDbtp]")).toContainText("-30.0-24.0");
  await expect(page.locator("[data-row=rmsDbfs]")).toContainText("-33.0-27.0");
  await page.getByLabel("Level to normalize to").fill("loud");
  await expect(page.getByText("Type a level in decibels.")).toBeVisible();
  await expect(page.getByRole("button", { name: "Normalize" })).toBeDisabled();
  await page.getByLabel("Level to normalize to").fill("-20");
  await page.getByRole("button", { name: "Normalize" }).click();
  await expect(page.getByRole("textbox", { name: "Clip gain" })).toHaveValue("+4.0 dB");
  await page.getByRole("button", { name: "Measure…" }).click();
  await expect(row).toContainText("-20.0");
});

test("a chain is saved as a preset and applied to another clip", async ({ page }) => {
  await projectWithClip(page, "Presets", toneFile("First.wav", -21));
  await addStep(page, "gain");
  await type(page, "Gain", "7.5");
  await addStep(page, "lim");
  await page.getByRole("button", { name: "Save preset…" }).click();
  await page.getByRole("textbox", { name: "Name", exact: true }).fill("Interview, recorded too low");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByText("There is already a preset named").first()).toBeVisible();
  await page.getByRole("textbox", { name: "Name", exact: true }).fill("My lift");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByText('Preset "My lift" is saved.')).toBeVisible();
  await clip(page, "First").press("d");
  await clip(page, "First").nth(1).click();
  await shelf(page, true);
  await page.getByRole("tab", { name: "Presets" }).click();
  await page.getByRole("button", { name: "Apply preset Telephone with hum" }).click();
  await expect(stepRows(page).first()).toContainText("Parametric EQ");
  await page.getByRole("button", { name: "Apply preset My lift" }).click();
  await expect(stepRows(page).first()).toContainText("+7.5 dB");
  await expect(stepRows(page)).toHaveCount(2);
  await expect(page.getByRole("button", { name: "Undo: apply My lift to First" })).toBeVisible();
});

test("the mix is exported at 16 and 24 bit, with its measured loudness", async ({ page }) => {
  await projectWithClip(page, "Export", toneFile("Tone.wav", -20));
  for (const [label, bits] of [
    ["16 bit", 16],
    ["24 bit", 24]
  ] as const) {
    await page.getByRole("button", { name: "Export…" }).click();
    await page.getByText(label, { exact: true }).click();
    await page.getByRole("button", { name: "Export", exact: true }).click();
    await expect(page.getByText(/Export\.wav is ready: -20\.0 LUFS, -20\.0 dBTP/)).toBeVisible();
    const download = page.waitForEvent("download");
    await page.getByRole("link", { name: "Save the file" }).click();
    const bytes = readFileSync(await (await download).path());
    expect(bytes.readUInt16LE(12 + 8 + 28 + 8 + 14)).toBe(bits);
    expect(bytes.length).toBe(116 + (4 * 48000 * 2 * bits) / 8);
    await page.getByRole("button", { name: "Dismiss message" }).first().click();
  }
});

test("undo and redo by name, through everything, also after a reload", async ({ page }) => {
  const name = await projectWithClip(page, "Undo", toneFile("Tone.wav", -23));
  await addStep(page, "gain");
  await type(page, "Gain", "3");
  await type(page, "Fade in length", "0.5");
  await clip(page, name).press("ArrowRight");
  await saved(page);
  await page.reload();
  await expect(page.getByRole("button", { name: "Undo: move Tone" })).toBeVisible();
  const undone = [
    "move Tone",
    "fade in of Tone",
    "Gain: gain",
    "add Gain to Tone",
    "add Tone",
    "import Tone"
  ];
  for (const label of undone) {
    await page.getByRole("button", { name: `Undo: ${label}` }).click();
    await saved(page);
  }
  await expect(page.getByText("No recordings yet.")).toBeVisible();
  for (const label of [...undone].reverse()) {
    await expect(page.getByRole("button", { name: `Redo: ${label}` })).toBeVisible();
    await page.keyboard.press("Control+Shift+Z");
    await saved(page);
  }
  await clip(page, name).click();
  await expect(page.getByRole("textbox", { name: "Fade in length" })).toHaveValue("0.500 s");
  await expect(stepRows(page).first()).toContainText("+3.0 dB");
});

test("a change made in another window is shown; an edit on a stale state is refused with a reason", async ({
  page,
  context
}) => {
  const name = await projectWithClip(page, "Two windows", toneFile("Tone.wav", -24));
  await saved(page);
  const other = await context.newPage();
  await other.goto(page.url());
  await clip(other, name).press("ArrowRight");
  await expect(page.getByRole("button", { name: "Undo: move Tone" })).toBeVisible();
  await expect(clip(page, name)).toHaveAttribute("aria-label", /starts at 0:00.010/);
  await other.close();
});
