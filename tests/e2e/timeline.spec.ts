// Laying out by pointer and keys: kept after a reload, seen by a second page, heard in the export.
import { readFileSync } from "node:fs";
import type { Page } from "@playwright/test";
import { sine } from "../core/signals";
import {
  boxOf,
  clip,
  expect,
  exported,
  leave,
  peakDb,
  projectWithClip,
  pull,
  saved,
  shapedTone,
  starts,
  test,
  twoClips,
  type
} from "./wring";

async function rule(page: Page, name: string): Promise<void> {
  await page.getByRole("radio", { name, exact: true }).click();
  await expect(page.getByRole("radio", { name, exact: true })).toHaveAttribute("aria-checked", "true");
}

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

  // While D is held a copy is pulled: the clip stays where it is, and sounds there as before.
  for (let i = 0; i < 3; i++) await page.keyboard.press("-");
  await expect.poll(async () => (await boxOf(clip(page, "Two"))).width).toBeLessThan(300);
  const held = await boxOf(clip(page, "Two"));
  const at: [number, number] = [held.x + held.width - 30, held.y + 35];
  await page.keyboard.down("Alt");
  await pull(page, at, [at[0] + 1.5 * held.width, at[1]], false);
  await expect(page.locator(".note")).toHaveText(/s\) · crossfade$/);
  await page.keyboard.down("d");
  await expect(page.locator(".note")).toHaveText(/s\) · copy · crossfade$/);
  await page.mouse.up();
  await page.keyboard.up("d");
  await page.keyboard.up("Alt");
  await expect(page.getByRole("button", { name: "Undo: copy Two" })).toBeVisible();
  await saved(page);
  await page.reload();
  await expect(page.locator('[data-clip][aria-label^="Two, starts"]')).toHaveCount(2);
  const twice = (await exported(page)).left;
  expect(twice.length / 48000).toBeCloseTo(3, 1);
  expect(twice.subarray(0, left.length - 480).every((v, i) => v === left[i])).toBe(true);
  expect(peakDb(twice, 2.6, 2.9)).toBeCloseTo(-26, 1);
});

/** Share of the rows that are painted on the notes of a pull within two pixels of a place, below the plate with the line's name. */
const paintedRows = (page: Page, x: number) =>
  page.locator("#lanes .notes canvas").evaluate((canvas: HTMLCanvasElement, at) => {
    const context = canvas.getContext("2d");
    if (!context) throw new Error("There is no picture.");
    const { data, width, height } = context.getImageData(Math.round(at) - 2, 30, 5, canvas.height - 30);
    const rows = Array.from({ length: height }, (_, y) =>
      Array.from({ length: width }, (__, column) => data[(y * width + column) * 4 + 3] ?? 0).some(
        (a) => a > 0
      )
    );
    return rows.filter(Boolean).length / height;
  }, x);

test("an edge snaps to what is near, and the line says to what", async ({ page }) => {
  await twoClips(page, "Snapped");
  const [one, two] = [await boxOf(clip(page, "One")), await boxOf(clip(page, "Two"))];
  const second = (two.x - one.x) / 2;
  // To 4 pixels behind the end of One.
  await pull(page, [two.x + 40, two.y + 35], [two.x + 40 - second + 4, two.y + 35], false);
  await expect(page.getByText("end of One")).toBeVisible();
  const line = one.x + second - (await boxOf(page.locator("#lanes"))).x;
  expect(await paintedRows(page, line)).toBeGreaterThan(0.5);
  expect(await paintedRows(page, line - 12)).toBe(0);
  await page.mouse.up();
  await expect(page.locator("#lanes .notes")).toHaveCount(0);
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
