// Presets and batches: a weekly chain saved, used on ten recordings in one action, reported, taken back; exchanged as files.
import { readFileSync } from "node:fs";
import { Meter } from "../../src/lib/core/measure/meter";
import { eachBlock } from "../core/signals";
import {
  addStep,
  boxOf,
  clip,
  difference,
  expect,
  expectAccessible,
  exported,
  importFiles,
  newProject,
  noiseFile,
  peakDb,
  place,
  projectWithClip,
  saved,
  savePreset,
  screen,
  shelf,
  stepRows,
  test,
  toneFile,
  type
} from "./wring";

test("a weekly chain is saved, and used on ten recordings in one action, with its report; one undo takes it back", async ({
  page
}) => {
  await newProject(page, "Weekly");
  const files = Array.from({ length: 10 }, (_, i) => noiseFile(`Week ${i}.wav`, 70 + i, 2));
  await importFiles(page, ...files);
  await shelf(page, true);
  for (let i = 0; i < 10; i++)
    await expect(page.getByRole("group", { name: `Week ${i}`, exact: true })).toBeVisible({ timeout: 20000 });
  await saved(page);
  await place(page, "Week 0");
  await addStep(page, "parametric");
  await addStep(page, "compr");
  await savePreset(page, "Weekly voice", "weekly, speech");
  const first = await exported(page);
  const before = await page.getByRole("button", { name: /^Undo/ }).textContent();

  await screen(page, "Batch").click();
  await page.getByRole("combobox", { name: "Preset", exact: true }).selectOption({ label: "Weekly voice" });
  await expect(page.getByRole("list", { name: "Steps of the batch" }).getByRole("listitem")).toHaveCount(2);
  await page.getByText("Bring each to a level last, by one gain").click();
  await page.getByRole("textbox", { name: "Level" }).fill("-20");
  await page.getByRole("textbox", { name: "Level" }).press("Enter");
  await page.getByRole("button", { name: "None" }).click();
  await page.getByRole("radio", { name: "Recordings" }).click();
  await page.getByText("All", { exact: true }).click();
  await expect(page.getByText("10 chosen")).toBeVisible();
  await expectAccessible(page);
  // One is heard before all are treated.
  await page.getByRole("button", { name: "Hear the first one" }).click();
  await page.getByRole("button", { name: "Stop" }).click();
  await page.getByRole("button", { name: "Treat 10 recordings" }).click();
  const report = page.getByRole("article", { name: "Batch Weekly voice" });
  await expect(report.getByText("10 done")).toBeVisible({ timeout: 30000 });
  await expect(report.getByText(/→ -20\.0/)).toHaveCount(10);
  const download = page.waitForEvent("download");
  await report.getByRole("button", { name: "Report as CSV" }).click();
  const csv = readFileSync(await (await download).path(), "utf8")
    .trim()
    .split("\n");
  expect(csv).toHaveLength(11);
  expect(csv[1]).toMatch(/^Week 0,recording,done,-[\d.]+,-20\.0/);

  await screen(page, "Edit").click();
  await expect(page.getByRole("textbox", { name: "Position", exact: true })).toBeVisible();
  await saved(page);
  await page.reload();
  await expect(page.getByRole("button", { name: "Undo: batch: Weekly voice" })).toBeVisible();
  await type(page, "Position", "0:05");
  await place(page, "Week 3, Weekly voice 1");
  const { left } = await exported(page);
  const meter = new Meter(48000);
  const part = left.slice(5 * 48000, 7 * 48000);
  eachBlock(part, part, 4096, (l, r, n) => meter.push(l, r, n));
  expect(meter.result().integratedLufs).toBeCloseTo(-20, 1);
  meter.release();
  const undo = page.getByRole("button", { name: /^Undo/ });
  await undo.click();
  await undo.click();
  await expect(undo).toHaveText(before ?? "");
  await saved(page);
  expect(difference((await exported(page)).left, first.left)).toBe("none");
});

test("files that are given to a batch are chosen, those that are here already too; a bad one says why; what the batch makes is not chosen", async ({
  page
}) => {
  const known = toneFile("Known.wav", -31, 2);
  await projectWithClip(page, "Given", known);
  await screen(page, "Batch").click();
  await page.getByRole("button", { name: "None" }).click();
  const chooser = page.waitForEvent("filechooser");
  await page.locator(".sounds").getByRole("button", { name: "Files…" }).click();
  const bad = { name: "Bad.wav", mimeType: "audio/wav", buffer: Buffer.from("no sound") };
  await (await chooser).setFiles([known, toneFile("New.wav", -32, 2), bad]);
  await expect(page.locator(".sounds").getByText("2 chosen")).toBeVisible();
  await expect(page.getByText('"Bad.wav" was not imported').first()).toBeVisible();
  await page.getByRole("combobox", { name: "Add an effect" }).selectOption({ label: "Gain" });
  await page.getByRole("textbox", { name: "Name of the batch" }).fill("As it is");
  await page.getByRole("button", { name: "Treat 2 recordings" }).click();
  await expect(page.getByRole("article", { name: "Batch As it is" }).getByText("2 done")).toBeVisible();
  await expect(page.locator(".sounds").getByText("2 chosen")).toBeVisible();
  await expect(page.locator(".sounds").getByRole("listitem")).toHaveCount(4);
});

test("a batch on clips: the steps are seen and changed before the start", async ({ page }) => {
  await projectWithClip(page, "Some", toneFile("Tone.wav", -30, 2));
  await screen(page, "Batch").click();
  await page.getByRole("combobox", { name: "Add an effect" }).selectOption({ label: "Gain" });
  await page.getByRole("textbox", { name: "Gain" }).fill("6");
  await page.getByRole("textbox", { name: "Gain" }).press("Enter");
  await page.getByRole("combobox", { name: "Add an effect" }).selectOption({ label: "Limiter" });
  await page.getByRole("button", { name: "Remove step 2" }).click();
  await page.getByRole("textbox", { name: "Name of the batch" }).fill("Louder");
  await page.getByRole("button", { name: "Treat 1 clip" }).click();
  const report = page.getByRole("article", { name: "Batch Louder" });
  await expect(report.getByText("1 done")).toBeVisible();
  await expect(report).toContainText("-30.0 → -24.0");
  await screen(page, "Edit").click();
  await clip(page, "Tone").click();
  await expect(stepRows(page).first()).toContainText("rendered");
  await expect(page.getByRole("button", { name: "Versions 1" })).toBeVisible();
});

test("presets are searched, tagged, renamed, deleted and taken back, written to a file and read from one", async ({
  page
}) => {
  await projectWithClip(page, "Presets", noiseFile("Sound.wav", 91, 2));
  await addStep(page, "ga");
  await type(page, "Gain", "-9");
  await savePreset(page, "Down nine", "evenings");
  // Saved over, by the same name.
  await type(page, "Gain", "-10");
  await page.getByRole("button", { name: "Save preset…" }).click();
  await page.getByRole("textbox", { name: "Name", exact: true }).fill("Down nine");
  await page.getByText("Save over the preset of that name").click();
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await screen(page, "Presets").click();
  await page.getByRole("searchbox", { name: "Search presets" }).fill("evenings");
  await expect(page.getByRole("row")).toHaveCount(2);
  const detail = page.getByRole("region", { name: "The chosen preset" });
  await expect(detail.getByRole("listitem")).toHaveText("Gain -10.0 dB");
  await detail.getByRole("textbox", { name: "Name" }).fill("Ten down");
  await detail.getByRole("button", { name: "Save changes" }).click();
  await expect(page.getByRole("button", { name: "Ten down", exact: true })).toBeVisible();
  await expectAccessible(page);
  // Heard on the clip, which stays as it is.
  await detail.getByRole("button", { name: "Hear it on Sound" }).click();
  await detail.getByRole("button", { name: "Stop" }).click();
  await page.getByRole("checkbox", { name: "Mark Ten down for a file" }).check();
  const download = page.waitForEvent("download");
  await page.getByRole("link", { name: "To a file" }).click();
  const text = readFileSync(await (await download).path(), "utf8");
  expect(JSON.parse(text)).toMatchObject({
    wring: "presets/1",
    presets: [{ name: "Ten down", tags: ["evenings"], steps: [{ effect: "gain", params: { gainDb: -10 } }] }]
  });
  await detail.getByRole("button", { name: "Delete" }).click();
  await expect(page.getByRole("row")).toHaveCount(1);
  await page.getByRole("button", { name: "Take it back" }).click();
  await expect(page.getByRole("button", { name: "Ten down", exact: true })).toBeVisible();
  // Read from a file: one that is taken gets a number, one that cannot be used is told.
  const file = JSON.parse(text) as { presets: unknown[] };
  file.presets.push({ name: "Strange", steps: [{ effect: "no-such-effect" }] });
  await page.getByLabel("Files with presets").setInputFiles({
    name: "Mine.json",
    mimeType: "application/json",
    buffer: Buffer.from(JSON.stringify(file))
  });
  await expect(
    page.getByText(/"Strange" was not read: .*there is no effect named "no-such-effect"/)
  ).toBeVisible();
  await expect(page.getByRole("button", { name: "Ten down 2", exact: true })).toBeVisible();
  // One that comes with Wring is applied to the clip.
  await page.getByRole("searchbox", { name: "Search presets" }).fill("telephone");
  await page.getByRole("button", { name: "Voice on a telephone" }).click();
  await page.getByRole("button", { name: "Apply to Sound" }).click();
  await expect(stepRows(page)).toHaveCount(3);
  for (const name of ["Ten down", "Ten down 2"]) {
    const presets = (await (await page.request.get("/api/presets")).json()) as { id: string; name: string }[];
    const found = presets.find((preset) => preset.name === name);
    await page.request.delete(`/api/presets/${found?.id ?? ""}`);
  }
});

test("a saved fade is pulled onto the half of a clip that it is for, and used by its button", async ({
  page
}) => {
  await projectWithClip(page, "Fades", toneFile("Tone.wav", -20, 4));
  const fades = [{ name: "Late rise", shape: { curve: "straight", bend: -5 } }];
  await page.request.post("/api/fade-presets", { data: { wring: "fades", version: 1, fades } });
  await page.reload();
  await page.getByRole("button", { name: "Show the whole programme" }).click();
  const before = await exported(page);
  await shelf(page, true);
  await page.getByRole("tab", { name: "Presets" }).click();
  const fade = page.getByRole("group", { name: "Fade Late rise" });
  const { width, height } = await boxOf(clip(page, "Tone"));
  await fade.dragTo(clip(page, "Tone"), { targetPosition: { x: width * 0.55, y: height / 2 } });
  await expect(page.getByRole("button", { name: /^Undo/ })).toContainText("fade out of Tone");
  await saved(page);
  await page.reload();
  const out = await exported(page);
  expect(difference(out.left.slice(0, 3 * 48000), before.left.slice(0, 3 * 48000))).toBe("none");
  // Half of a fade that is bent downwards lies far under half of the level.
  expect(peakDb(out.left, 3.74, 3.76)).toBeLessThan(-30);
  await clip(page, "Tone").click();
  await shelf(page, true);
  await page.getByRole("tab", { name: "Presets" }).click();
  await page.getByRole("button", { name: "Use Late rise to fade in" }).click();
  await saved(page);
  const both = await exported(page);
  expect(peakDb(both.left, 0.24, 0.26)).toBeLessThan(-30);
  expect(difference(both.left.slice(2 * 48000), out.left.slice(2 * 48000))).toBe("none");
  const all = (await (await page.request.get("/api/fade-presets")).json()) as { id: string; name: string }[];
  for (const { id, name } of all)
    if (name === "Late rise") await page.request.delete(`/api/fade-presets/${id}`);
});
