// What is seen of the sound: lanes, their zoom, the whole programme, and that an edit draws what it concerns and nothing else.
import type { Page } from "@playwright/test";
import { clip, expect, openDemo, place, importFiles, projectWithClip, saved, test, toneFile } from "./wring";

/** Rows of a lane's picture that hold a colour of sound, in the column in the middle of a box. */
async function soundRows(page: Page, lane: number, x: number): Promise<number> {
  return page
    .locator("[data-lane] canvas")
    .nth(lane)
    .evaluate((node, at) => {
      const canvas = node as HTMLCanvasElement;
      const column = Math.round(
        ((at - canvas.getBoundingClientRect().left) * canvas.width) / canvas.clientWidth
      );
      const data = canvas.getContext("2d")?.getImageData(column, 0, 1, canvas.height).data ?? [];
      let rows = 0;
      // Slate: #51637d.
      for (let i = 0; i < data.length; i += 4)
        if (data[i] === 0x51 && data[i + 1] === 0x63 && data[i + 2] === 0x7d) rows++;
      return rows;
    }, x);
}

const middleOf = async (page: Page, name: string) => {
  const box = await clip(page, name).boundingBox();
  return (box?.x ?? 0) + (box?.width ?? 0) / 2;
};

test("a recording at -60 dB is a line, until its lane's waveforms are drawn taller; the factor is shown and kept", async ({
  page
}) => {
  await projectWithClip(page, "Quiet", toneFile("Quiet.wav", -60));
  const x = await middleOf(page, "Quiet");
  await expect.poll(() => soundRows(page, 0, x)).toBeLessThan(3);
  const box = await clip(page, "Quiet").boundingBox();
  await page.mouse.move(x, (box?.y ?? 0) + 20);
  await page.keyboard.down("Alt");
  await page.mouse.wheel(0, -1730);
  await page.keyboard.up("Alt");
  const head = page.getByRole("group", { name: "Track Track 1", exact: true });
  await expect(
    page
      .locator("[data-lane]")
      .first()
      .getByText(/^×(99\d|10\d\d)$/)
  ).toBeVisible();
  await expect.poll(() => soundRows(page, 0, x)).toBeGreaterThan(25);
  await page.reload();
  await expect.poll(() => soundRows(page, 0, x)).toBeGreaterThan(25);
  await head.getByRole("button", { name: "More for Track 1" }).click();
  await page.getByRole("menuitem", { name: "Draw the track's waveforms as loud as they are" }).click();
  await expect.poll(() => soundRows(page, 0, x)).toBeLessThan(3);
});

test("an edit of one clip redraws its element, its handles and its lane's picture, nothing else", async ({
  page
}) => {
  await openDemo(page);
  await clip(page, "Engineer 2").click();
  await expect(page.getByText("measuring levels…")).toBeHidden();
  await page.waitForTimeout(500);
  await page.evaluate(() => {
    const seen = { elements: new Set<string>(), lanes: new Set<string>() };
    (window as unknown as { seen: typeof seen }).seen = seen;
    new MutationObserver((changes) => {
      for (const { target } of changes)
        if (target instanceof HTMLElement)
          seen.elements.add(target.dataset.clip ?? target.dataset.handleOf ?? target.className);
    }).observe(document.querySelector("#lanes") as Element, {
      subtree: true,
      attributes: true,
      childList: true,
      characterData: true
    });
    const fill = CanvasRenderingContext2D.prototype.fillRect;
    CanvasRenderingContext2D.prototype.fillRect = function (...rest) {
      const lane = this.canvas.closest<HTMLElement>("[data-lane]")?.dataset.lane;
      if (lane !== undefined) seen.lanes.add(lane);
      fill.apply(this, rest);
    };
  });
  const element = await clip(page, "Engineer 2").getAttribute("data-clip");
  await page.getByRole("textbox", { name: "Clip gain" }).fill("-1");
  await page.keyboard.press("Enter");
  await page.keyboard.press("Escape");
  await clip(page, "Engineer 2").press("Alt+ArrowRight");
  await saved(page);
  await page.waitForTimeout(300);
  const seen = await page.evaluate(() => {
    const { elements, lanes } = (window as unknown as { seen: { elements: Set<string>; lanes: Set<string> } })
      .seen;
    return { elements: [...elements], lanes: lanes.size };
  });
  expect(seen).toEqual({ elements: [element], lanes: 1 });
});

test("clips that are too narrow for an element are seen, chosen by a click, and listed", async ({ page }) => {
  await projectWithClip(page, "Narrow", toneFile("Long.wav", -20, 60));
  await importFiles(page, toneFile("Short.wav", -14, 0.5));
  await page.getByRole("button", { name: "Track", exact: true }).click();
  await place(page, "Short");
  await page.keyboard.press("a");
  // The one on the bench has an element all the same.
  await expect(clip(page, "Short")).toHaveAttribute("aria-pressed", "true");
  await clip(page, "Long").click();
  await expect(page.getByRole("group", { name: /^Clips of Track 1, and 1 too narrow/ })).toHaveCount(1);
  await expect(clip(page, "Short")).toHaveCount(0);
  await page.keyboard.press("Control+k");
  const action = page.getByRole("combobox", { name: "Action" });
  await action.fill("list all clips");
  await action.press("Enter");
  const list = page.getByRole("dialog", { name: "2 clips" });
  await list.getByRole("searchbox").fill("short");
  await page.getByRole("dialog", { name: "1 clip" }).getByRole("button", { name: "Short" }).click();
  await expect(clip(page, "Short")).toHaveAttribute("aria-pressed", "true");
});

test("the strip of the whole programme shows the part in sight: pulled, clicked, by keys", async ({
  page
}) => {
  await openDemo(page);
  const strip = page.getByRole("scrollbar", { name: "Part of the programme in sight" });
  for (let i = 0; i < 3; i++) await page.getByRole("button", { name: "Zoom in" }).click();
  const left = async () => Number(await strip.getAttribute("aria-valuenow"));
  const box = await strip.boundingBox();
  if (!box) throw new Error("no strip");
  await page.mouse.click(box.x + box.width * 0.8, box.y + 12);
  const after = await left();
  expect(after).toBeGreaterThan(90);
  await page.mouse.move(box.x + box.width * 0.8, box.y + 12);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.4, box.y + 12, { steps: 5 });
  await page.mouse.up();
  await expect.poll(left).toBeLessThan(after - 40);
  await strip.focus();
  await page.keyboard.press("Home");
  expect(await left()).toBe(0);
  await page.keyboard.press("PageDown");
  expect(await left()).toBeGreaterThan(10);
  await page.keyboard.press("End");
  await expect(clip(page, "Theme, close")).toBeInViewport();
});

test("zooming from the whole programme to single samples draws the sound at every step", async ({ page }) => {
  await projectWithClip(page, "Deep", toneFile("Deep.wav", -6, 30));
  const x = await middleOf(page, "Deep");
  const box = await clip(page, "Deep").boundingBox();
  await page.mouse.move(x, (box?.y ?? 0) + 20);
  await page.keyboard.down("Control");
  for (let i = 0; i < 12; i++) {
    await page.mouse.wheel(0, -600);
    await expect.poll(() => soundRows(page, 0, x)).toBeGreaterThan(0);
  }
  await page.keyboard.up("Control");
  // Single samples: the curve is a thin line there, and a column of it is far lower than the whole wave.
  await expect.poll(() => soundRows(page, 0, x)).toBeLessThan(12);
});

test("a clip beyond the view that gets the focus is brought into sight, and the lanes stay where they are", async ({
  page
}) => {
  await openDemo(page);
  for (let i = 0; i < 3; i++) await page.getByRole("button", { name: "Zoom in" }).click();
  const lanes = page.locator("#lanes");
  const width = (await lanes.boundingBox())?.width ?? 0;
  const outside = () =>
    page
      .locator("[data-clip]")
      .evaluateAll(
        (all, right) =>
          all.map((e) => e as HTMLElement).find((e) => e.offsetLeft > right)?.dataset.clip ?? "",
        width
      );
  // Elements are laid out anew when the zoom rests: one that was there a moment ago may be gone.
  let id = "";
  await expect(async () => {
    id = await outside();
    await page.locator(`[data-clip="${id}"]`).focus({ timeout: 1000 });
  }).toPass();
  const beyond = page.locator(`[data-clip="${id}"]`);
  await expect(beyond).toBeInViewport();
  expect(await lanes.evaluate((node) => node.scrollLeft)).toBe(0);
  await page.keyboard.press("Enter");
  await expect(beyond).toHaveAttribute("aria-pressed", "true");
});
