// What is computed while one works and plays: steps that need a whole clip, and clips that cost most.
import type { Page } from "@playwright/test";
import {
  addStep,
  clip,
  difference,
  expect,
  expectAccessible,
  exported,
  importAll,
  newProject,
  openDemo,
  place,
  projectWithClip,
  saved,
  stepRows,
  test,
  toneFile,
  type
} from "./wring";

async function momentary(page: Page): Promise<number> {
  const text = (await page.locator('[data-meter="M"] .value').textContent()) ?? "";
  return Number(text.replace("−", "-").replace("-∞", "-Infinity"));
}

async function find(page: Page, words: string): Promise<void> {
  await page.keyboard.press("Control+k");
  await page.keyboard.type(words);
  await page.keyboard.press("Enter");
}

test("a clip sounds as before until a step that needs all of it is computed; nothing else waits for it", async ({
  page
}) => {
  await newProject(page, "Whole");
  // Longer than what the page hears itself: the server is asked, and kept waiting here.
  await importAll(page, toneFile("Long.wav", -20, 62), toneFile("Short.wav", -26, 3));
  await place(page, "Long");
  await page.getByRole("button", { name: "Show the whole programme" }).click();
  let release: () => void = () => undefined;
  const held = new Promise<void>((resolve) => (release = resolve));
  await page.route("**/listen", async (route) => {
    if (route.request().postData()?.includes('"learn"')) await held;
    await route.continue().catch(() => undefined);
  });
  await clip(page, "Long").click();
  await addStep(page, "norm");
  await type(page, "Level", "-30");
  await expect(clip(page, "Long")).toHaveAttribute("aria-label", /computing: it sounds as before/);
  await expect(stepRows(page).first()).toContainText("waits");
  await expectAccessible(page, "#bench");
  await page.getByRole("button", { name: /^Play/ }).click();
  await expect.poll(() => momentary(page)).toBeCloseTo(-20, 0);
  // A change that needs nothing is heard at once.
  await type(page, "Clip gain", "-6");
  await expect.poll(() => momentary(page)).toBeCloseTo(-26, 0);
  await type(page, "Clip gain", "0");
  release();
  await expect.poll(() => momentary(page)).toBeCloseTo(-30, 0);
  await expect(clip(page, "Long")).not.toHaveAttribute("aria-label", /computing/);
  await expect(stepRows(page).first()).toContainText("live");
  await page.keyboard.press("Escape");
  await saved(page);
});

test("switched off, it is computed when it is about to sound", async ({ page }) => {
  await projectWithClip(page, "Asked", toneFile("Tone.wav", -20, 3));
  const places = () =>
    page.locator("header > *").evaluateAll((all) => all.map((one) => one.getBoundingClientRect().x));
  await saved(page);
  const before = await places();
  await find(page, "by themselves");
  await expect(page.getByRole("region", { name: "Messages" })).toContainText("when it is about to sound");
  // Nothing in the top line moves when a message comes.
  expect(await places()).toEqual(before);
  await page.reload();
  await clip(page, "Tone").click();
  await addStep(page, "norm");
  await type(page, "Level", "-30");
  await saved(page);
  await expect(clip(page, "Tone")).not.toHaveAttribute("aria-label", /computing/);
  await page.getByRole("button", { name: /^Play/ }).click();
  await expect.poll(() => momentary(page)).toBeCloseTo(-30, 0);
});

test("the dearest clips are found, rendered at once, and sound the same", async ({ page }) => {
  await openDemo(page);
  const undo = page.getByRole("button", { name: /^Undo/ });
  const first = await undo.textContent();
  const before = await exported(page);
  await find(page, "costs most");
  const list = page.getByRole("list", { name: "Clips that are treated live, the dearest first" });
  const rows = list.getByRole("listitem");
  await expect(rows.first()).toBeVisible({ timeout: 30000 });
  await expectAccessible(page, ".bx--modal");
  // The first is the dearest, and chosen.
  const shares = (await list.locator(".share").allTextContents()).map((text) => parseFloat(text));
  expect(shares.length).toBeGreaterThan(5);
  expect(shares).toEqual([...shares].sort((a, b) => b - a));
  const box = rows.first().getByRole("checkbox");
  await expect(box).toBeChecked();
  const name = (await rows.first().locator(".bx--checkbox-label").textContent())?.trim() ?? "";
  const others = await list.getByRole("checkbox", { checked: true }).count();
  for (let i = 1; i < others; i++) await rows.nth(i).getByText(/./).first().click();
  await page.getByRole("button", { name: "Render 1", exact: true }).click();
  await expect(clip(page, name)).toHaveAttribute("aria-label", /, rendered/, { timeout: 60000 });
  await saved(page);
  await page.reload();
  await expect(clip(page, name)).toHaveAttribute("aria-label", /, rendered/);
  expect(difference((await exported(page)).left, before.left)).toBe("none");
  await page.getByRole("button", { name: /^Undo: render/ }).click();
  const question = page.getByRole("dialog").getByRole("button", { name: /^Undo/ });
  if (await question.isVisible()) await question.click();
  await expect(undo).toHaveText(first ?? "");
  await saved(page);
});
