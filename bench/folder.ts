// A folder of 2,000 files, 20 of them bad, chosen in a browser: until all are listed, and how long the page is held up while they come in.
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { chromium, type Browser } from "@playwright/test";
import { wav16 } from "../tests/core/wavBytes";
import { sine } from "../tests/core/signals";
import { SERVER_BASE, withServer } from "./server";
import { row } from "./table";

const FILES = 2000;
const BAD = 100;
/** So long they may take to come in, ms. */
const MOST_MS = 300000;

interface Traced {
  readonly name: string;
  readonly ph: string;
  readonly pid: number;
  readonly tid: number;
  /** Processor time, microseconds. */
  readonly tdur?: number;
  readonly args: { readonly name?: string };
}

/** Processor time of the longest task of any page's main thread while `wait` lasts, ms: what other work takes away is not in it, what a host takes from its machine is. */
async function longestWork(browser: Browser, wait: () => Promise<void>): Promise<number> {
  const session = await browser.newBrowserCDPSession();
  const events: Traced[] = [];
  session.on("Tracing.dataCollected", ({ value }) => events.push(...(value as unknown as Traced[])));
  await session.send("Tracing.start", {
    transferMode: "ReportEvents",
    traceConfig: { recordMode: "recordUntilFull", includedCategories: ["toplevel"] }
  });
  await wait();
  const complete = new Promise((resolve) => session.once("Tracing.tracingComplete", resolve));
  await session.send("Tracing.end");
  await complete;
  const threads = new Set(
    events
      .filter(({ ph, name, args }) => ph === "M" && name === "thread_name" && args.name === "CrRendererMain")
      .map(({ pid, tid }) => `${pid} ${tid}`)
  );
  const tasks = events.filter(({ ph, pid, tid, tdur }) => ph === "X" && threads.has(`${pid} ${tid}`) && tdur);
  if (tasks.length === 0) throw new Error("The trace has no tasks.");
  return Math.max(...tasks.map(({ tdur = 0 }) => tdur)) / 1000;
}

const folder = mkdtempSync(path.join(tmpdir(), "wring-bench-folder-"));
const sounds = path.join(folder, "Sounds");
mkdirSync(sounds);
for (let i = 0; i < FILES; i++)
  writeFileSync(
    path.join(sounds, `Take ${i}.wav`),
    i % BAD === 7 ? "no sound" : wav16(sine(100 + i / 4, -20, 4800))
  );

await withServer(path.join(folder, "data"), 2, async () => {
  const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox"] });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(SERVER_BASE, { waitUntil: "networkidle" });
    await page.getByLabel("Name of the new project").fill("Folder");
    await page.getByRole("button", { name: "New project" }).click();
    await page.getByRole("button", { name: /^Play/ }).waitFor();
    await page.waitForTimeout(1500);
    await page.evaluate(() => {
      const tasks: number[] = [];
      Object.assign(window, { tasks });
      new PerformanceObserver((list) => {
        for (const { duration } of list.getEntries()) tasks.push(duration);
      }).observe({ type: "longtask" });
    });
    const long = () => page.evaluate(() => (window as unknown as { tasks: number[] }).tasks.splice(0));
    const begin = await page.evaluate(() => performance.now());
    await page.locator("input[webkitdirectory]").first().setInputFiles(sounds);
    await page.getByText(`of ${FILES} files are done`).waitFor();
    const listed = (await page.evaluate(() => performance.now())) - begin;
    row(`a folder of ${FILES} files until all are listed`, listed, "ms", undefined, 2000);
    // The first is the browser's, which makes its list of files.
    const [browsers = 0, ...ours] = await long();
    row("  the browser's own task in that, making its list", browsers, "ms");
    row("  longest task of ours in that, at least 50", Math.max(50, ...ours), "ms", undefined, 50);
    const watched = await page.evaluate(() => performance.now());
    const over = `${FILES - FILES / BAD} of ${FILES} files are done, ${FILES / BAD} refused`;
    // One element is looked at now and then: to look through the page for a text with every picture would hold it up itself.
    const work = await longestWork(browser, async () => {
      await page.waitForFunction(
        (text) => document.querySelector(".imports [role=status]")?.textContent === text,
        over,
        { polling: 500, timeout: MOST_MS }
      );
    });
    const seconds = ((await page.evaluate(() => performance.now())) - watched) / 1000;
    const tasks = await long();
    row("while they come in: processor time of the longest task", work, "ms", undefined, 50);
    row("while they come in: longest task, at least 50", Math.max(50, ...tasks), "ms", undefined, 50);
    row("while they come in: tasks over 50 ms a second", tasks.length / seconds, "");
    row("while they come in: files a second", FILES / seconds, "");
  } finally {
    await browser.close();
  }
});
rmSync(folder, { recursive: true, force: true });
