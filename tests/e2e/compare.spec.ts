// Hearing and comparing: candidates, the ear guard, the monitor; and what people come for, on the demo.
import { Meter } from "../../src/lib/core/measure/meter";
import { eachBlock } from "../core/signals";
import {
  addStep,
  backTo,
  clip,
  collect,
  expect,
  expectAccessible,
  exported,
  heard,
  listen,
  openDemo,
  peakDb,
  projectWithClip,
  saved,
  stepRows,
  tapRing,
  test,
  toneFile,
  type,
  undo
} from "./wring";

const RATE = 48000;

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
  await collect(page);
  await listen(page, 0.7);
  await collect(page);
  await listen(page, 0.4);
  await page.keyboard.press("2");
  await expect(page.getByRole("radio", { name: "After" })).toHaveAttribute("aria-checked", "true");
  await listen(page, 0.4);
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
  await listen(page, 3.6);
  await collect(page);
  await listen(page, 0.2);
  await page.keyboard.press("2");
  await expect(page.getByText(/ear guard -1\d dB/)).toBeVisible();
  await listen(page, 0.3);
  const eased = await heard(page);
  const begin = eased.left.findIndex((v) => Math.abs(v) > 10 ** (-38.5 / 20)) / RATE;
  expect(begin).toBeGreaterThan(0);
  expect(peakDb(eased.left, begin, begin + 0.15)).toBeLessThan(-40 + 6 + 2);
  // It comes up by itself.
  await expect(page.getByText(/ear guard/)).toBeHidden({ timeout: 20000 });

  // The difference: gain 24 dB less the sound itself.
  await page.keyboard.press("Alt+q");
  await expect(page.getByText("only the difference", { exact: true })).toBeVisible();
  await listen(page, 0.6);
  await collect(page);
  await listen(page, 0.3);
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
  await collect(page);
  await listen(page, 0.6);
  await collect(page);
  await listen(page, 0.4);
  expect(peakDb((await heard(page)).left, 0, 0.3)).toBeCloseTo(-32, 1);
  await expect(page.locator("[data-meter=M] .value")).toHaveText(/^-(19\.9|20\.[01])$/);
  await page.keyboard.press("Alt+p");
  await page.reload();
  await expect(page.getByRole("button", { name: "Monitor: monitor -12.0 dB" })).toBeVisible();
  expect(peakDb((await exported(page)).left, 1, 3)).toBeCloseTo(-20, 1);
});

test.describe("in the demo", () => {
  test("the low interview is rescued from below -45 to -16 LUFS under -1 dBTP, and compared with two other ways", async ({
    page
  }) => {
    await tapRing(page);
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
    await collect(page);
    for (const key of ["1", "3", "4", "2"]) {
      await page.keyboard.press(key);
      await listen(page, 0.5);
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
