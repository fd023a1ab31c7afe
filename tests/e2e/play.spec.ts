import { readFileSync } from "node:fs";
import {
  addStep,
  clip,
  collect,
  expect,
  heard,
  listen,
  openDemo,
  projectWithClip,
  tapRing,
  test,
  toneFile,
  type
} from "./wring";

function peak(x: readonly number[], from: number, to: number): number {
  let top = 0;
  for (let i = from; i < Math.min(to, x.length); i++) top = Math.max(top, Math.abs(x[i]));
  return top;
}

const position = async (page: import("@playwright/test").Page) => {
  const text = await page.getByRole("textbox", { name: "Position" }).inputValue();
  const [minutes, seconds] = text.split(":");
  return Number(minutes) * 60 + Number(seconds);
};

test("plays, stops where it is, goes to a typed place, loops a range; the meters follow", async ({
  page
}) => {
  await tapRing(page);
  await openDemo(page);
  await type(page, "Position", "0:08.5");
  await page.keyboard.press("Escape");
  await page.locator(".timeline").click({ position: { x: 100, y: 20 }, force: true });
  await page.getByRole("button", { name: /^Play/ }).click();
  await expect.poll(() => position(page)).toBeGreaterThan(9.5);
  await expect(page.locator("[data-meter=M] .value")).toHaveText(/^-\d+\.\d$/);
  await expect(page.locator("[data-meter=TP] .value")).toHaveText(/^-\d+\.\d$/);
  await page.getByRole("button", { name: /^Stop/ }).click();
  const stopped = await position(page);
  await page.waitForTimeout(300);
  expect(await position(page)).toBe(stopped);

  await type(page, "Range from", "0:10");
  await type(page, "Range to", "0:10.8");
  await page.getByRole("button", { name: "Loop the range" }).click();
  await collect(page);
  await page.getByRole("button", { name: /^Play/ }).click();
  await listen(page, 2.5);
  const looping = await position(page);
  expect(looping).toBeGreaterThanOrEqual(10);
  expect(looping).toBeLessThan(10.85);
  await page.getByRole("button", { name: /^Stop/ }).click();
});

test("what the playback worker produces is the export, difference exactly 0, and the playhead agrees with it", async ({
  page
}) => {
  await tapRing(page);
  await openDemo(page);
  await type(page, "Position", "0:50.5");
  await collect(page);
  await page.getByRole("button", { name: /^Play/ }).click();
  await listen(page, 4.0);
  await page.getByRole("button", { name: /^Stop/ }).click();
  const { left, right } = await heard(page);
  expect(left.length).toBeGreaterThan(3 * 48000);
  expect(peak(left, 0, 150000)).toBeGreaterThan(0.02);
  // The playhead counts frames that were read; up to 50 ms more lie ready, and the output has its own delay.
  const played = (await position(page)) - 50.5;
  expect(Math.abs(left.length / 48000 - played)).toBeLessThan(0.25);

  await type(page, "Range from", "0:50.5");
  await type(page, "Range to", "0:53.5");
  await page.getByRole("button", { name: "Export…" }).click();
  await page.getByText("32 bit float, every sample exact").click();
  await page.getByText(/^The range, 0:50.500/).click();
  await page.getByRole("button", { name: "Export", exact: true }).click();
  const download = page.waitForEvent("download");
  await page.getByRole("link", { name: "Save the file" }).click();
  const bytes = readFileSync(await (await download).path());
  const samples = new Float32Array(
    bytes.buffer.slice(bytes.byteOffset + 116, bytes.byteOffset + 116 + 3 * 48000 * 8)
  );
  expect(samples.length).toBe(3 * 48000 * 2);
  let worst = 0;
  for (let i = 0; i < 3 * 48000; i++)
    worst = Math.max(worst, Math.abs(samples[2 * i] - left[i]), Math.abs(samples[2 * i + 1] - right[i]));
  expect(worst).toBe(0);
});

test("steps change while it plays, heard without a click", async ({ page }) => {
  await tapRing(page);
  const name = await projectWithClip(page, "Live changes", toneFile("Tone.wav", -18, 20));
  await addStep(page, "gain");
  await collect(page);
  await page.getByRole("button", { name: /^Play/ }).click();
  await listen(page, 0.7);
  await type(page, "Gain", "6");
  await listen(page, 0.4);
  await addStep(page, "eq");
  await listen(page, 0.4);
  await page.getByRole("switch", { name: "Gain on" }).click();
  await listen(page, 0.4);
  await page.getByRole("button", { name: /^1\s*Gain/ }).press("Alt+ArrowDown");
  await page.getByRole("button", { name: "Remove Parametric EQ" }).click();
  await page.getByRole("switch", { name: "Gain off" }).click();
  await listen(page, 0.4);
  await page.getByRole("button", { name: /^Stop/ }).click();
  const { left } = await heard(page);
  const level = (from: number) => peak(left, from, from + 2400);
  expect(20 * Math.log10(level(12000))).toBeCloseTo(-18, 1);
  expect(20 * Math.log10(peak(left, 0, left.length))).toBeCloseTo(-12, 1);
  // A 997 Hz sine at -12 dBFS moves by no more than this from one sample to the next; a click would.
  const steepest = ((2 * Math.PI * 997) / 48000) * 10 ** (-12 / 20);
  let worst = 0;
  for (let i = 1; i < left.length; i++) worst = Math.max(worst, Math.abs(left[i] - left[i - 1]));
  expect(worst).toBeLessThan(steepest * 1.05);
  await expect(clip(page, name)).toHaveAttribute("aria-label", /1 step, live/);
});

test("B switches between before and after while it plays, at equal loudness unless that is not wanted", async ({
  page
}) => {
  await tapRing(page);
  await projectWithClip(page, "Compare", toneFile("Quiet.wav", -40, 20));
  await addStep(page, "gain");
  await type(page, "Gain", "20");
  await expect(page.getByText("-40.0 → -20.0")).toBeVisible();
  await page.getByRole("button", { name: /^Quiet, starts/ }).focus();
  await collect(page);
  await page.keyboard.press("Space");
  await listen(page, 0.9);
  await page.keyboard.press("b");
  await expect(page.getByRole("radio", { name: "Before" })).toBeChecked();
  await listen(page, 0.9);
  await page.keyboard.press("q");
  await listen(page, 0.9);
  await page.keyboard.press("Space");
  const { left } = await heard(page);
  const level = (from: number) => 20 * Math.log10(peak(left, from, from + 4800));
  expect(level(20000)).toBeCloseTo(-20, 1);
  const levels = Array.from({ length: Math.floor(left.length / 4800) - 1 }, (_, i) =>
    Math.round(level(i * 4800))
  );
  // Before is raised to after; as it is it is 20 dB lower.
  expect(levels.filter((one) => one === -20).length).toBeGreaterThan(12);
  expect(levels[levels.length - 1]).toBe(-40);
});
