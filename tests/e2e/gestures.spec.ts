// What the pointer and the keys do on the lanes: kept after a reload, and heard in the export.
import type { Page } from "@playwright/test";
import {
  boxOf,
  clip,
  expect,
  exported,
  importFiles,
  projectWithClip,
  pull,
  saved,
  test,
  toneFile,
  place,
  type
} from "./wring";

const lane = (page: Page, n: number) => page.locator("[data-lane]").nth(n);

/** Index of the lane on which a clip lies. */
async function laneOf(page: Page, name: string): Promise<number> {
  const [card, first, second] = await Promise.all([
    boxOf(clip(page, name)),
    boxOf(lane(page, 0)),
    boxOf(lane(page, 1))
  ]);
  return Math.floor((card.y + card.height / 2 - first.y) / (second.y - first.y));
}

test("a clip pulled to another track stays there, is saved, and sounds with that track's gain in the export", async ({
  page
}) => {
  await projectWithClip(page, "Pulled", toneFile("Tone.wav", -20));
  await page.getByRole("button", { name: "Track", exact: true }).click();
  await page.getByRole("textbox", { name: "Gain of Track 2 in dB" }).fill("-6");
  await page.keyboard.press("Enter");
  const card = await boxOf(clip(page, "Tone"));
  const [first, second] = [await boxOf(lane(page, 0)), await boxOf(lane(page, 1))];
  await pull(
    page,
    [card.x + card.width / 2, card.y + card.height / 2],
    [card.x + card.width / 2, card.y + card.height / 2 + second.y - first.y]
  );
  expect(await laneOf(page, "Tone")).toBe(1);
  await expect(page.getByRole("button", { name: "Undo: move Tone" })).toBeVisible();
  await saved(page);
  await page.reload();
  expect(await laneOf(page, "Tone")).toBe(1);
  const { left } = await exported(page);
  const peak = left.subarray(48000, 96000).reduce((a, x) => Math.max(a, Math.abs(x)), 0);
  expect(20 * Math.log10(peak)).toBeCloseTo(-26, 1);

  // The same by keys: back up, and a hundredth of a second to the right.
  await clip(page, "Tone").focus();
  await page.keyboard.press("Alt+ArrowUp");
  await expect(clip(page, "Tone")).toBeFocused();
  await page.keyboard.press("ArrowRight");
  await saved(page);
  await page.reload();
  expect(await laneOf(page, "Tone")).toBe(0);
  await expect(clip(page, "Tone")).toHaveAccessibleName(/starts at 0:00\.010/);
});

test("Escape takes a pull back while it goes on, and nothing is saved", async ({ page }) => {
  await projectWithClip(page, "Taken back", toneFile("Back.wav", -22));
  await page.getByRole("button", { name: "Zoom out" }).click();
  const card = await boxOf(clip(page, "Back"));
  await pull(page, [card.x + 60, card.y + 30], [card.x + 260, card.y + 30], false);
  // The picture of the clip is what moves; the clip itself follows when it is let go.
  const picture = page.locator("canvas[data-over]");
  await expect(picture).toHaveCount(1);
  const firstColumn = () =>
    picture.evaluate((node) => {
      const { width, height } = node as HTMLCanvasElement;
      const { data } =
        (node as HTMLCanvasElement).getContext("2d")?.getImageData(0, height >> 1, width, 1) ?? {};
      return data ? data.findIndex((value, i) => i % 4 === 3 && value > 0) >> 2 : -1;
    });
  const begin = card.x + 200 - (await boxOf(lane(page, 0))).x;
  await expect.poll(async () => Math.abs((await firstColumn()) - begin)).toBeLessThan(1.5);
  await page.keyboard.press("Escape");
  await expect(picture).toHaveCount(0);
  expect((await boxOf(clip(page, "Back"))).x).toBeCloseTo(card.x, 0);
  await page.mouse.up();
  await expect(page.getByRole("button", { name: "Undo: add Back" })).toBeVisible();
});

test("a marquee, Shift and Ctrl select several clips, which are then pulled, and moved by keys, together", async ({
  page
}) => {
  await projectWithClip(page, "Several", toneFile("One.wav", -20, 1));
  await importFiles(page, toneFile("Two.wav", -26, 1));
  await page.getByRole("button", { name: "Track", exact: true }).click();
  await page.getByRole("textbox", { name: "Position" }).fill("0:02");
  await page.keyboard.press("Enter");
  await place(page, "Two");
  await page.getByRole("button", { name: "Show the whole programme" }).click();
  await page.getByRole("button", { name: "Zoom out" }).click();
  const [one, two] = [await boxOf(clip(page, "One")), await boxOf(clip(page, "Two"))];
  const below = await boxOf(lane(page, 1));
  // From empty ground right of both to above their left ends.
  await pull(page, [two.x + two.width + 40, below.y + 20], [one.x + 5, one.y + 10]);
  await expect(clip(page, "One")).toHaveAttribute("aria-pressed", "true");
  await expect(clip(page, "Two")).toHaveAttribute("aria-pressed", "true");
  await expect(page.getByText("and 1 more")).toBeVisible();

  await pull(page, [two.x + two.width / 2, two.y + 30], [two.x + two.width / 2 + 50, below.y + 20]);
  await expect(page.getByRole("button", { name: "Undo: move 2 clips" })).toBeVisible();
  expect([await laneOf(page, "One"), await laneOf(page, "Two")]).toEqual([1, 1]);
  const [movedOne, movedTwo] = [await boxOf(clip(page, "One")), await boxOf(clip(page, "Two"))];
  expect(movedOne.x - one.x).toBeCloseTo(50, 0);
  expect(movedTwo.x - two.x).toBeCloseTo(50, 0);

  await clip(page, "Two").focus();
  await page.keyboard.press("Alt+ArrowUp");
  expect([await laneOf(page, "One"), await laneOf(page, "Two")]).toEqual([0, 0]);
  await saved(page);
  await page.reload();
  expect([await laneOf(page, "One"), await laneOf(page, "Two")]).toEqual([0, 0]);
  const { left } = await exported(page);
  const begins = left.findIndex((x) => x !== 0);
  const framesMoved = left.length - 3 * 48000;
  expect(Math.abs(begins - framesMoved)).toBeLessThan(3);
  expect(framesMoved).toBeGreaterThan(1000);

  await clip(page, "One").click();
  await clip(page, "Two").click({ modifiers: ["ControlOrMeta"] });
  await expect(page.getByText("and 1 more")).toBeVisible();
  await clip(page, "One").click({ modifiers: ["ControlOrMeta"] });
  await expect(clip(page, "One")).toHaveAttribute("aria-pressed", "false");
});

test("edges and fades are pulled by the pointer, kept, and heard in the export", async ({ page }) => {
  await projectWithClip(page, "Shaped", toneFile("Shape.wav", -20));
  const card = await boxOf(clip(page, "Shape"));
  const second = card.width / 4;
  await pull(page, [card.x + card.width - 2, card.y + 30], [card.x + card.width - 2 - second, card.y + 30]);
  await expect(page.getByRole("button", { name: "Undo: trim Shape" })).toBeVisible();
  await pull(page, [card.x + 4, card.y + 5], [card.x + 4 + second, card.y + 5]);
  await expect(page.getByRole("button", { name: /^Undo: fade in/ })).toBeVisible();
  await saved(page);
  await page.reload();
  await expect(clip(page, "Shape")).toHaveAccessibleName(/, 3\.0\d s,/);
  const { left } = await exported(page);
  expect(left.length / 48000).toBeCloseTo(3, 1);
  const peak = (at: number) =>
    left.subarray(at * 48000, (at + 0.05) * 48000).reduce((a, x) => Math.max(a, Math.abs(x)), 0);
  expect(peak(0.5) / peak(2)).toBeGreaterThan(0.4);
  expect(peak(0.5) / peak(2)).toBeLessThan(0.65);
});

test("a clip is trimmed at the playhead by keys: what is cut off is not heard, and comes back with Undo", async ({
  page
}) => {
  await projectWithClip(page, "Trimmed", toneFile("Cut.wav", -20));
  await type(page, "Position", "0:01");
  await clip(page, "Cut").focus();
  await page.keyboard.press("Enter");
  await page.keyboard.press("[");
  await expect(clip(page, "Cut")).toHaveAccessibleName(/starts at 0:01\.000/);
  await type(page, "Position", "0:03");
  await clip(page, "Cut").focus();
  await page.keyboard.press("]");
  await saved(page);
  await page.reload();
  await expect(clip(page, "Cut")).toHaveAccessibleName(/, 2\.0\d s,/);
  const { left } = await exported(page);
  const level = (at: number) =>
    left.subarray(at * 48000, (at + 0.1) * 48000).reduce((a, x) => Math.max(a, Math.abs(x)), 0);
  expect(left.length).toBe(3 * 48000);
  expect(level(0.5)).toBe(0);
  expect(20 * Math.log10(level(2))).toBeCloseTo(-20, 1);
  await page.keyboard.press("ControlOrMeta+z");
  await expect(clip(page, "Cut")).toHaveAccessibleName(/, 3\.0\d s,/);

  // Edges and fades are elements of their own, of clips that are not selected too; in Tab's order are those of the clip on the bench.
  await page.keyboard.press("Escape");
  const handle = (name: string) => page.getByRole("slider", { name, exact: true });
  await expect(handle("End of Cut")).toHaveAttribute("tabindex", "-1");
  await handle("End of Cut").press("ArrowLeft");
  await expect(handle("End of Cut")).toHaveAttribute("aria-valuetext", /0:03\.990/);
  await clip(page, "Cut").press("Enter");
  await clip(page, "Cut").press("Tab");
  await page.keyboard.press("Tab");
  await expect(handle("Fade in of Cut")).toBeFocused();
  for (let i = 0; i < 5; i++) await page.keyboard.press("ArrowRight");
  await expect(handle("Fade in of Cut")).toHaveAttribute("aria-valuetext", /0\.050/);
  await saved(page);
  const faded = (await exported(page)).left;
  expect(faded.length).toBe(Math.round(3.99 * 48000));
  const early = (at: number) =>
    faded.subarray(at * 48000, (at + 0.005) * 48000).reduce((a, x) => Math.max(a, Math.abs(x)), 0);
  expect(early(1.02) / early(1.1)).toBeLessThan(0.7);
});

test("the bench is made higher by pointer and keys, collapses to its title, and stays as it was left", async ({
  page
}) => {
  await projectWithClip(page, "Heights", toneFile("High.wav", -24));
  const splitter = page.getByRole("separator", { name: "Height of the bench" });
  const height = async () => Number(await splitter.getAttribute("aria-valuenow"));
  expect(await height()).toBe(330);
  const line = await boxOf(splitter);
  await pull(page, [line.x + 400, line.y + 4], [line.x + 400, line.y - 56]);
  expect(await height()).toBe(390);
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("Shift+ArrowDown");
  expect(await height()).toBe(340);
  await page.reload();
  expect(await height()).toBe(340);
  await splitter.focus();
  await page.keyboard.press("Enter");
  expect(await height()).toBe(38);
  await expect(page.getByRole("combobox", { name: "Add a step" })).not.toBeInViewport();
  await splitter.dblclick();
  expect(await height()).toBe(340);
});

test("lanes are made low or high, one or all, by keys and pointer; it is remembered, and clips are still pulled to where they are seen", async ({
  page
}) => {
  await projectWithClip(page, "Lanes", toneFile("Lane.wav", -23));
  await page.getByRole("button", { name: "Track", exact: true }).click();
  const high = async (n: number) => Math.round((await boxOf(lane(page, n))).height);
  expect([await high(0), await high(1)]).toEqual([53, 53]);
  await clip(page, "Lane").focus();
  await page.keyboard.press("Alt+3");
  expect([await high(0), await high(1)]).toEqual([140, 140]);
  await page.keyboard.press("Alt+1");
  expect([await high(0), await high(1)]).toEqual([40, 40]);
  const splitter = page.getByRole("separator", { name: "Height of track Track 1" });
  const line = await boxOf(splitter);
  await pull(page, [line.x + 30, line.y + 3], [line.x + 30, line.y + 63]);
  expect([await high(0), await high(1)]).toEqual([100, 40]);
  await splitter.press("Shift+ArrowDown");
  expect(await high(0)).toBe(140);
  await page.reload();
  expect([await high(0), await high(1)]).toEqual([140, 40]);
  const card = await boxOf(clip(page, "Lane"));
  const below = await boxOf(lane(page, 1));
  await pull(page, [card.x + 80, card.y + 100], [card.x + 80, below.y + 20]);
  expect(Math.round((await boxOf(clip(page, "Lane"))).y)).toBe(Math.round(below.y) + 2);
  await saved(page);
});
