// What all browser tests share: a page whose console must stay empty of errors and whose requests must stay at home,
// and the application's gestures by name.
import { readFileSync } from "node:fs";
import AxeBuilder from "@axe-core/playwright";
import { expect, test as base, type Locator, type Page } from "@playwright/test";
import { noise, sine } from "../core/signals";
import { servers } from "../../playwright.config";
import { wav16 } from "../core/wavBytes";

export { expect };

/** The server of the worker that runs this test: what one worker does is not seen by the other. */
export function ownServer(): (typeof servers)[number] {
  const { parallelIndex } = base.info();
  const own = servers[parallelIndex];
  if (!own)
    throw new Error(`Worker ${parallelIndex} has no server: playwright.config.ts makes ${servers.length}.`);
  return own;
}

export const test = base.extend<{
  page: Page;
  /** What else the browser may log, where a test takes something away from it. */
  ignoreConsole: RegExp | null;
}>({
  ignoreConsole: [null, { option: true }],
  baseURL: ({}, use) => use(ownServer().url),
  page: async ({ page, baseURL, ignoreConsole }, use) => {
    const problems: string[] = [];
    page.on("console", (message) => {
      // A refusal that the application shows to the user is logged by the browser as a failed request.
      const text = message.text();
      if (
        message.type() === "error" &&
        !/status of 4\d\d|status of 507/.test(text) &&
        !ignoreConsole?.test(text)
      )
        problems.push(text);
    });
    page.on("pageerror", (error) => problems.push(error.message));
    page.on("request", (request) => {
      const url = request.url();
      if (!url.startsWith(String(baseURL)) && !url.startsWith("data:") && !url.startsWith("blob:"))
        problems.push(`request to ${url}`);
    });
    await use(page);
    expect(problems).toEqual([]);
  }
});

/** @param part selector of what is looked at: all of the page when left out */
export async function expectAccessible(page: Page, part = "html"): Promise<void> {
  // Colours count once transitions are over.
  await page.evaluate(() => Promise.allSettled(document.getAnimations().map((a) => a.finished)));
  const { violations } = await new AxeBuilder({ page }).include(part).analyze();
  expect(violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.target.join(" ")).join(", ")}`)).toEqual([]);
}

/** A new project, opened: made without the first page, which has tests of its own (home.spec.ts). */
export async function newProject(page: Page, name: string): Promise<void> {
  const made = await page.request.post("/api/projects", { data: { name, sampleRate: 48000 } });
  const { id } = (await made.json()) as { id: string };
  await page.goto(`/projects/${id}`);
  await expect(page.getByRole("button", { name: /^Play/ })).toBeVisible();
}

export async function openDemo(page: Page): Promise<void> {
  const listed = await page.request.get("/api/projects");
  const demo = ((await listed.json()) as { id: string; name: string }[]).find(
    ({ name }) => name === "Last Boat to Varnsey"
  );
  await page.goto(`/projects/${demo?.id}`);
  await expect(clip(page, "Engineer 2")).toBeVisible();
}

export interface TestFile {
  readonly name: string;
  readonly mimeType: string;
  readonly buffer: Buffer;
}

export function wavFile(name: string, signal: Float32Array, rate = 48000): TestFile {
  return { name, mimeType: "audio/wav", buffer: Buffer.from(wav16(signal, rate)) };
}

/** A tone of so many seconds that is changed sample by sample. */
export function shapedTone(name: string, seconds: number, change: (x: number, i: number) => number) {
  return wavFile(name, sine(997, -20, Math.round(seconds * 48000)).map(change));
}

/** A 997 Hz tone, so that its loudness on both sides in LUFS is its peak in dBFS; the level makes it a sound of its own. */
export function toneFile(name: string, db: number, seconds = 4): TestFile {
  return wavFile(name, sine(997, db, Math.round(48000 * seconds)));
}

export function noiseFile(name: string, seed: number, seconds = 4): TestFile {
  const wave = noise(48000 * seconds, 0.3, seed).map((x, i) => x * Math.abs(Math.sin(i / 8000)));
  return wavFile(name, wave);
}

export async function importFiles(page: Page, ...files: TestFile[]): Promise<void> {
  await page.getByLabel("Sound files to import").first().setInputFiles(files);
}

/** Imports files and waits for all of them: each import is an edit, and may come after what a test does next. */
export async function importAll(page: Page, ...files: TestFile[]): Promise<void> {
  await importFiles(page, ...files);
  await shelf(page, true);
  for (const { name } of files)
    await expect(recording(page, name.replace(/\.\w+$/, ""))).toBeVisible({ timeout: 20000 });
  await saved(page);
}

/** Opens or closes the shelf. */
export async function shelf(page: Page, open: boolean): Promise<void> {
  const button = page.getByRole("button", { name: "Shelf", exact: true });
  if ((await button.getAttribute("aria-pressed")) !== String(open)) await button.click();
  await expect(button).toHaveAttribute("aria-pressed", String(open));
}

/** Puts a recording on the timeline, at the playhead, and the shelf out of the way. */
export async function place(page: Page, name: string): Promise<void> {
  await shelf(page, true);
  await page.getByRole("button", { name: `Add ${name} at the playhead` }).click();
  await expect(page.getByRole("button", { name: `Undo: add ${name}` })).toBeVisible();
  await shelf(page, false);
}

/** Chooses from a list that opens. */
export async function pick(page: Page, label: string, option: string): Promise<void> {
  await page.getByRole("combobox", { name: label }).click();
  await page.getByRole("option", { name: option, exact: true }).click();
}

export function recording(page: Page, name: string): Locator {
  return page.getByRole("group", { name, exact: true });
}

export function clip(page: Page, name: string): Locator {
  return page.getByRole("button", { name: new RegExp(`^${name}, starts at`) });
}

/** A project with one recording that lies as a clip on the first track and is on the bench. */
export async function projectWithClip(page: Page, project: string, file: TestFile): Promise<string> {
  await newProject(page, project);
  await importFiles(page, file);
  const name = file.name.replace(".wav", "");
  await place(page, name);
  await page.getByRole("button", { name: "Show the whole programme" }).click();
  await expect(clip(page, name)).toHaveAttribute("aria-pressed", "true");
  return name;
}

export async function addStep(page: Page, letters: string): Promise<void> {
  const field = page.getByRole("combobox", { name: "Add a step" });
  await field.click();
  await field.pressSequentially(letters);
  await field.press("Enter");
}

/** Types a value into a field and makes it. */
export async function type(page: Page, label: string, value: string): Promise<void> {
  const field = page.getByRole("textbox", { name: label, exact: true });
  await field.fill(value);
  await field.press("Enter");
}

export async function saved(page: Page): Promise<void> {
  await expect(page.locator(".saved")).toHaveText("saved");
}

/** Exports the programme as 32-bit float. Returns the left samples, and what was said of them. */
export async function exported(page: Page): Promise<{ left: Float32Array; said: string }> {
  await page.getByRole("button", { name: "Export…" }).click();
  await page.getByText("32 bit float, every sample exact").click();
  const begun = page.waitForResponse((r) => r.request().method() === "POST" && r.url().endsWith("/jobs"));
  await page.getByRole("button", { name: "Export", exact: true }).click();
  const { id } = (await (await begun).json()) as { id: string };
  // There may be news of others: it is this one's file that counts.
  const link = page.locator(`a[href*="${id}"]`).first();
  await expect(link).toBeVisible({ timeout: 60000 });
  const said = (await link.locator("xpath=..").textContent()) ?? "";
  const download = page.waitForEvent("download");
  await link.click();
  const bytes = readFileSync(await (await download).path());
  const all = new Float32Array(bytes.buffer.slice(bytes.byteOffset + 116));
  await page
    .getByRole("button", { name: /^Dismiss/ })
    .first()
    .click();
  return { left: all.filter((_, i) => i % 2 === 0), said };
}

/** Where two sounds at 48 kHz differ, "none" when they do not: a list of all their samples would take minutes to write. */
export function difference(a: Float32Array, b: Float32Array): string {
  if (a.length !== b.length) return `${a.length} frames instead of ${b.length}`;
  let [first, most, count] = [-1, 0, 0];
  for (let i = 0; i < a.length; i++) {
    const d = Math.abs(a[i] - b[i]);
    if (d === 0) continue;
    if (first < 0) first = i;
    most = Math.max(most, d);
    count++;
  }
  return first < 0
    ? "none"
    : `${count} of ${a.length} samples, from ${(first / 48000).toFixed(4)} s on, by ${most.toExponential(2)} at most`;
}

/** Peak of a stretch of samples at 48 kHz, from and to in seconds, in dBFS. */
export function peakDb(x: ArrayLike<number>, from: number, to: number): number {
  if (Math.round(to * 48000) > x.length) throw new Error(`The sound ends before ${to} s.`);
  let most = 0;
  for (let i = Math.round(from * 48000); i < Math.round(to * 48000); i++)
    most = Math.max(most, Math.abs(x[i] ?? 0));
  return 20 * Math.log10(most);
}

export interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** Where something is once it rests: clips' elements follow the view when that has come to rest. */
export async function boxOf(what: Locator): Promise<Box> {
  for (let before = ""; ;) {
    const box = await what.boundingBox();
    if (!box) throw new Error("It is not on the screen.");
    if (JSON.stringify(box) === before) return box;
    before = JSON.stringify(box);
    await what.page().waitForTimeout(200);
  }
}

/** Pulls from one point to another, in steps as a hand does. */
export async function pull(
  page: Page,
  from: [number, number],
  to: [number, number],
  letGo = true
): Promise<void> {
  await page.mouse.move(...from);
  await page.mouse.down();
  await page.mouse.move((from[0] + to[0]) / 2, (from[1] + to[1]) / 2, { steps: 4 });
  await page.mouse.move(...to, { steps: 4 });
  if (letGo) await page.mouse.up();
}

/** Chains a row of the sheet: its text without the measuring. */
export function stepRows(page: Page): Locator {
  return page.getByRole("region", { name: /^Sheet/ }).getByRole("listitem");
}

declare global {
  interface Window {
    heard?: { left: number[]; right: number[]; stop: () => void };
    ring?: { control: SharedArrayBuffer; audio: SharedArrayBuffer };
  }
}

/** Lets the test see the ring buffer that the playback worker writes: by listening to what the page tells its worker. Call before opening a page. */
export async function tapRing(page: Page): Promise<void> {
  await page.addInitScript(() => {
    const post = Worker.prototype.postMessage as (this: Worker, message: unknown, ...rest: unknown[]) => void;
    Worker.prototype.postMessage = function (this: Worker, message: unknown, ...rest: unknown[]) {
      const data = message as { type?: string; ring?: Window["ring"] };
      if (data?.type === "init" && data.ring) window.ring = data.ring;
      post.call(this, message, ...rest);
    } as Worker["postMessage"];
  });
}

/** Collects every frame that the playback worker produces from now on, and nothing of before. */
export async function collect(page: Page): Promise<void> {
  await page.evaluate(() => {
    const ring = window.ring;
    if (!ring) throw new Error("The ring was not seen.");
    window.heard?.stop();
    const control = new Int32Array(ring.control);
    const audio = new Float32Array(ring.audio);
    const frames = audio.length / 2;
    const heard = { left: [] as number[], right: [] as number[], stop: () => clearInterval(timer) };
    let at = Atomics.load(control, 0);
    const timer = setInterval(() => {
      const end = Atomics.load(control, 0);
      for (; at !== end; at = (at + 1) | 0) {
        const slot = (at & (frames - 1)) * 2;
        heard.left.push(audio[slot]);
        heard.right.push(audio[slot + 1]);
      }
    }, 4);
    window.heard = heard;
  });
}

/** How many frames have been collected so far: to wait by, since bringing over all of them takes seconds. */
export const heardFrames = (page: Page): Promise<number> =>
  page.evaluate(() => window.heard?.left.length ?? 0);

/** Waits until so many more seconds of sound have been collected, however long that takes. */
export async function listen(page: Page, seconds: number): Promise<void> {
  const until = (await heardFrames(page)) + seconds * 48000;
  await expect.poll(() => heardFrames(page), { intervals: [50], timeout: 60000 }).toBeGreaterThan(until);
}

/** The frames collected so far. */
export async function heard(page: Page): Promise<{ left: number[]; right: number[] }> {
  return page.evaluate(() => {
    const { left = [], right = [] } = window.heard ?? {};
    return { left, right };
  });
}

export const undo = (page: Page): Locator => page.getByRole("banner").getByRole("button", { name: /^Undo/ });

/** Takes back all that a test does, until undo says what it said before. */
export async function backTo(page: Page, before: string | null): Promise<void> {
  await page.keyboard.press("Escape");
  for (let i = 0; i < 80 && (await undo(page).textContent()) !== before; i++) {
    await undo(page).click();
    const question = page.getByRole("dialog").getByRole("button", { name: /^Undo/ });
    await page.waitForTimeout(60);
    if (await question.isVisible()) await question.click();
  }
  await saved(page);
}

/** A button of the bench. */
export const bench = (page: Page, name: string): Locator =>
  page.locator("#bench").getByRole("button", { name });

/** A screen's link in the top line. */
export const screen = (page: Page, name: string): Locator =>
  page.getByRole("navigation", { name: "Screens" }).getByRole("link", { name });

/** Saves the chain on the bench as a preset. */
export async function savePreset(page: Page, name: string, tags: string): Promise<void> {
  await page.getByRole("button", { name: "Save preset…" }).click();
  await page.getByRole("textbox", { name: "Name", exact: true }).fill(name);
  await page.getByRole("textbox", { name: "Tags, separated by commas" }).fill(tags);
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByText(`Preset "${name}" is saved.`)).toBeVisible();
}

/** "One" from 0 s and "Two" from 2 s on, a second each, at -20 and -26 dB, with room behind them. */
export async function twoClips(page: Page, name: string): Promise<void> {
  await newProject(page, name);
  await importAll(page, toneFile("One.wav", -20, 1), toneFile("Two.wav", -26, 1));
  await place(page, "One");
  await type(page, "Position", "0:02");
  await place(page, "Two");
  await page.getByRole("button", { name: "Show the whole programme" }).click();
  await page.getByRole("button", { name: "Zoom out" }).click();
  // Beside the clips, nothing of them is selected.
  await page.keyboard.press("Escape");
}

/** Leaves a field: keys are the timeline's again. */
export const leave = (page: Page) =>
  page.evaluate(() => document.activeElement instanceof HTMLElement && document.activeElement.blur());

export const starts = async (page: Page, name: string) =>
  /starts at ([\d:.]+),/.exec((await clip(page, name).getAttribute("aria-label")) ?? "")?.[1];
