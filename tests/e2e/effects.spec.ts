import {
  addStep,
  clip,
  collect,
  expect,
  expectAccessible,
  heardFrames,
  noiseFile,
  projectWithClip,
  recording,
  stepRows,
  tapRing,
  test,
  toneFile,
  type,
  wavFile,
  pick
} from "./wring";
import { effects } from "../../src/lib/core/effects/registry";
import { sine } from "../core/signals";

test("every effect can be added, shows its controls, refuses what is no value, and is accessible", async ({
  page
}) => {
  test.setTimeout(120_000);
  await projectWithClip(page, "All effects", toneFile("Tone.wav", -26));
  const field = page.getByRole("combobox", { name: "Add a step" });
  await field.click();
  const names = effects.map((effect) => effect.name);
  // Saved chains may stand below them.
  const offered = await page.getByRole("option").locator("strong").allInnerTexts();
  expect(names.filter((name) => !offered.includes(name))).toEqual([]);
  await page.keyboard.press("Escape");
  for (const name of names) {
    await addStep(page, name);
    await expect(page.getByRole("heading", { name, exact: true })).toBeVisible();
    const controls = page.getByRole("region", { name: `Controls of ${name}` }).getByRole("textbox");
    if ((await controls.count()) > 0) {
      const first = controls.first();
      const before = await first.inputValue();
      await first.fill("1e9 apples");
      await first.press("Enter");
      await expect(first).toHaveAccessibleDescription(/^.+ takes .+ to .+, not “1e9 apples”\.$/);
      await first.press("Escape");
      await expect(first).toHaveValue(before);
      await expect(first).toHaveAttribute("aria-invalid", "false");
    }
    await page.getByRole("button", { name: `Remove ${name}` }).click();
  }
  await addStep(page, "Noise reduction");
  await expectAccessible(page);
});

test("a step that must hear its whole clip plays and is measured: normalize, then what follows", async ({
  page
}) => {
  await tapRing(page);
  await projectWithClip(page, "Normalize step", toneFile("Tone.wav", -33));
  await addStep(page, "normalize");
  await page.getByRole("combobox", { name: "Measure" }).selectOption("peak");
  await type(page, "Level", "-9");
  await expect(stepRows(page).first()).toContainText("-33.0 → -9.0");
  await collect(page);
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: /^Play/ }).click();
  const played = () => heardFrames(page);
  await expect.poll(played).toBeGreaterThan(9000);
  const peak = await page.evaluate(() =>
    (window.heard?.left ?? []).slice(2000).reduce((a, x) => Math.max(a, Math.abs(x)), 0)
  );
  expect(20 * Math.log10(peak)).toBeCloseTo(-9, 1);
});

test("hum found by itself is named and taken out of what is heard", async ({ page }) => {
  await tapRing(page);
  const lines = [1, 2, 3].map((k) => sine(60.1 * k, -20 - 6 * k, 48000 * 4));
  const hum = lines[0].map((x, i) => x + lines[1][i] + lines[2][i] + 1e-4 * Math.sin(i * i));
  await projectWithClip(page, "Hum", wavFile("Humming.wav", hum));
  await addStep(page, "hum");
  await expect(page.getByText("Hum of 60.10 Hz found: 3 lines")).toBeVisible();
  await page.getByRole("button", { name: /^Play/ }).click();
  await collect(page);
  const heard = () => heardFrames(page);
  await expect.poll(heard).toBeGreaterThan(96000);
  const peak = await page.evaluate(() =>
    (window.heard?.left ?? []).slice(60000, 96000).reduce((a, x) => Math.max(a, Math.abs(x)), 0)
  );
  expect(20 * Math.log10(peak)).toBeLessThan(-50);
  await page.getByRole("switch", { name: "Hum removal on" }).click();
  await expect(page.getByText("Hum of 60.10 Hz found")).toBeHidden();
});

test("a noise profile is learnt from the selected range, carried, and forgotten", async ({ page }) => {
  const name = await projectWithClip(page, "Learn noise", noiseFile("Hiss.wav", 31));
  await addStep(page, "noise red");
  const learn = page.getByRole("button", { name: "Learn from the range" });
  await expect(learn).toBeDisabled();
  await type(page, "Range from", "0:01");
  await type(page, "Range to", "0:02");
  await learn.click();
  await expect(page.getByText("Hiss, 0:01.0 to 0:02.0")).toBeVisible();
  await expect(page.getByRole("combobox", { name: "Noise", exact: true })).toHaveValue("carried");
  await expect(clip(page, name)).toHaveAttribute("aria-label", /1 step, live/);
  await page.getByRole("button", { name: "Forget" }).click();
  await expect(page.getByText("No profile is carried yet")).toBeVisible();
});

test("an impulse response is any recording of the project", async ({ page }) => {
  await projectWithClip(page, "Room", toneFile("Tone.wav", -28));
  await page.getByLabel("Sound files to import").setInputFiles([noiseFile("Hall.wav", 77, 1)]);
  await expect(recording(page, "Hall")).toBeVisible();
  await addStep(page, "convolution");
  await pick(page, "Impulse response", "Hall");
  await expect(stepRows(page).first()).toContainText(/-28\.0 → -\d/);
  await expect(page.getByRole("button", { name: /^Undo: Convolution reverb: impulse/ })).toBeVisible();
});

test("a step that must hear its whole clip is added while it plays: the sound goes on meanwhile", async ({
  page
}) => {
  await tapRing(page);
  await projectWithClip(page, "Add while playing", toneFile("Tone.wav", -30, 20));
  await page.getByRole("button", { name: /^Play/ }).click();
  await collect(page);
  await addStep(page, "normalize");
  await page.getByRole("combobox", { name: "Measure" }).selectOption("peak");
  await type(page, "Level", "-12");
  // Looked at in the page: the frames themselves are too many to be handed over again and again.
  const level = () =>
    page.evaluate(() =>
      (window.heard?.left ?? []).slice(-4800).reduce((a, x) => Math.max(a, Math.abs(x)), 0)
    );
  await expect.poll(level, { timeout: 20_000 }).toBeGreaterThan(0.24);
  // Nowhere does the sound stop: a 997 Hz tone passes zero, but never stays near it for 5 ms.
  const longest = await page.evaluate(() => {
    let most = 0;
    let quiet = 0;
    for (const x of window.heard?.left ?? []) {
      quiet = Math.abs(x) < 1e-4 ? quiet + 1 : 0;
      most = Math.max(most, quiet);
    }
    return most;
  });
  expect(longest).toBeLessThan(240);
});
