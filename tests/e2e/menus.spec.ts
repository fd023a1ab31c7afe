// Context menus, and what is on the bench when nothing is selected.
import { clip, expect, expectAccessible, openDemo, projectWithClip, saved, test, toneFile } from "./wring";

test("a right click offers what can be done with what lies under it; keys open it too, Escape gives the focus back", async ({
  page
}) => {
  await projectWithClip(page, "Menus", toneFile("Tone.wav", -20));
  await clip(page, "Tone").click({ button: "right" });
  const menu = page.getByRole("menu", { name: "Tone" });
  await expect(menu).toBeVisible();
  await expectAccessible(page);
  await menu.getByRole("menuitem", { name: /^Duplicate/ }).click();
  await expect(clip(page, "Tone")).toHaveCount(2);
  await saved(page);

  await clip(page, "Tone").first().focus();
  await page.keyboard.press("Shift+F10");
  await expect(menu).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(menu).toHaveCount(0);
  await expect(clip(page, "Tone").first()).toBeFocused();

  await page
    .getByRole("group", { name: "Track Track 1", exact: true })
    .click({ button: "right", position: { x: 4, y: 4 } });
  await page.getByRole("menuitem", { name: "Select all clips of the track" }).click();
  await expect(page.getByText("and 1 more")).toBeVisible();

  await page
    .getByTitle("Click to go there, drag to select a range")
    .first()
    .click({ button: "right", position: { x: 200, y: 8 } });
  await page.getByRole("menuitem", { name: "Range begins at the playhead" }).click();
  await expect(page.getByRole("textbox", { name: "Range from" })).toHaveValue("0:00.000");
});

test("menus of sections, steps and recordings act on what they were opened on", async ({ page }) => {
  await openDemo(page);
  await page.getByRole("group", { name: "The call", exact: true }).click({ button: "right" });
  await page.getByRole("menuitem", { name: "Range over the section" }).click();
  await expect(page.getByRole("textbox", { name: "Range from" })).not.toHaveValue("–");
  await page.getByRole("textbox", { name: "Position" }).focus();
  await clip(page, "Engineer 2").click();
  const limiter = page.getByRole("listitem").filter({ hasText: "Limiter" });
  await limiter.click({ button: "right" });
  await page.getByRole("menuitem", { name: "Move the chosen step up" }).click();
  await expect(page.getByRole("listitem").nth(2)).toContainText("Limiter");
  await page.keyboard.press("Control+z");
  await page.keyboard.press("s");
  await page
    .getByRole("group", { name: "Engine room", exact: true })
    .click({ button: "right", position: { x: 10, y: 10 } });
  await page.getByRole("menuitem", { name: "Put the recording on the bench" }).click();
  await expect(page.getByRole("heading", { name: "Recording Engine room" })).toBeVisible();
  await saved(page);
});

test("nothing selected is the programme: its levels, loudness over time, and whether it meets the target", async ({
  page
}) => {
  // 997 Hz at -20 dBFS on both sides reads -20 LUFS: EBU Tech 3341, case 1, at another level.
  await projectWithClip(page, "Programme", toneFile("Steady.wav", -20, 10));
  await page.keyboard.press("Escape");
  await page
    .locator("[data-lane]")
    .first()
    .click({ position: { x: 1100, y: 30 } });
  await expect(page.getByRole("heading", { name: "The programme" })).toBeVisible();
  const levels = page.getByLabel("Levels of the mix");
  await expect(levels).toContainText("-20.0 LUFS");
  await expect(page.getByText("fails: 3.0 LU too loud")).toBeVisible();
  await page.getByRole("combobox", { name: "Target" }).selectOption({ label: "Podcast, -16 LUFS" });
  await expect(page.getByText("fails: 4.0 LU too quiet")).toBeVisible();
  await page.getByRole("textbox", { name: "Gain of the mix in dB" }).fill("4");
  await page.keyboard.press("Enter");
  await expect(page.getByText("passes", { exact: true })).toBeVisible();
  await expectAccessible(page);
});

test("the shelf is open while a project is empty, closes when it has clips, and slides over when it is called", async ({
  page
}) => {
  await projectWithClip(page, "Shelf", toneFile("Tone.wav", -20));
  const shelf = page.getByRole("complementary", { name: "Shelf" });
  await expect(shelf).toHaveCount(0);
  const before = await page.locator("[data-lane]").first().boundingBox();
  await page.keyboard.press("s");
  await expect(shelf).toBeVisible();
  expect(await page.locator("[data-lane]").first().boundingBox()).toEqual(before);
  await page.getByRole("button", { name: "Hide the shelf" }).click();
  await expect(shelf).toHaveCount(0);
});
