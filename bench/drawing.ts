// What drawing costs in headless Chromium on a project of 24 tracks, 2,000 clips and two hours, at 1280 × 800 with the bench open: processor
// time of the main thread a frame by the browser's own counters, frame intervals, handlers; and that scrolling keeps nothing.
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { chromium, type CDPSession, type Page } from "@playwright/test";
import { spawn } from "node:child_process";
import { config } from "../src/lib/server/config";
import { closeDatabase } from "../src/lib/server/db/connection";
import { storeBigScreen } from "./bigScreen";
import { median, row } from "./table";

const PORT = 4694;
const RUNS = 5;
const FRAMES = 60;
/** Minutes of scrolling; the figure that is asked for is of ten. */
const MINUTES = Number(process.env.WRING_BENCH_MINUTES ?? 2);
const data = mkdtempSync(path.join(tmpdir(), "wring-bench-drawing-"));
config.dataFolder = data;
const id = await storeBigScreen(data);
await closeDatabase();

const server = spawn(process.execPath, ["server/index.mjs"], {
  env: { ...process.env, NODE_ENV: "production", WRING_DATA: data, PORT: String(PORT), WRING_LOG: "silent" },
  stdio: ["ignore", "ignore", "inherit", "ipc"]
});
await new Promise((resolve) => server.once("message", resolve));
const browser = await chromium.launch({
  executablePath: "/usr/bin/chromium",
  args: ["--no-sandbox", "--enable-precise-memory-info"]
});
const base = `http://127.0.0.1:${PORT}`;

/** In the page: frames that a gesture took, what its handlers took, and bytes of the bitmaps that are alive. */
interface Driven {
  readonly intervals: number[];
  readonly handlers: number[];
}

declare global {
  interface Window {
    /** Milliseconds from the navigation until the edit screen was there, painted, and free to take a click. */
    ready?: number;
    bitmapBytes: number;
    drive(kind: "scroll" | "zoom" | "drag", frames: number, amount: number): Promise<Driven>;
  }
}

/** Counts bitmaps that come from workers and are closed, and drives gestures a frame at a time. */
function prepare(): void {
  const watch = new MutationObserver(() => {
    if (!document.querySelector("#bench [role=combobox]") || !document.querySelector("[data-lane] canvas"))
      return;
    watch.disconnect();
    requestAnimationFrame(() => setTimeout(() => (window.ready = performance.now())));
  });
  watch.observe(document, { childList: true, subtree: true });
  window.bitmapBytes = 0;
  const sizeOf = ({ width, height }: ImageBitmap) => width * height * 4;
  const setter = Object.getOwnPropertyDescriptor(Worker.prototype, "onmessage");
  Object.defineProperty(Worker.prototype, "onmessage", {
    set(this: Worker, listener: (event: MessageEvent) => void) {
      setter?.set?.call(this, (event: MessageEvent) => {
        const { bitmap } = (event.data ?? {}) as { bitmap?: ImageBitmap };
        if (bitmap) window.bitmapBytes += sizeOf(bitmap);
        listener.call(this, event);
      });
    }
  });
  const close = ImageBitmap.prototype.close as (this: ImageBitmap) => void;
  ImageBitmap.prototype.close = function (this: ImageBitmap) {
    window.bitmapBytes -= sizeOf(this);
    close.call(this);
  };
  window.drive = async (kind, frames, amount) => {
    const lanes = document.querySelector("#lanes") as HTMLElement;
    const box = lanes.getBoundingClientRect();
    const at = { clientX: box.left + 500, clientY: box.top + 60, bubbles: true, cancelable: true };
    if (kind === "drag") {
      // By the middle of a clip: one that is selected when there are many.
      const all = [...document.querySelectorAll<HTMLElement>("[data-clip]")].filter((clip) => {
        const { left, right, top, bottom } = clip.getBoundingClientRect();
        return left > box.left + 200 && right < box.right - 200 && top > 90 && bottom < 380;
      });
      const many = all.filter((clip) => clip.getAttribute("aria-pressed") === "true");
      const held = (many.length > 1 ? many : all)[0]?.getBoundingClientRect();
      if (!held) throw new Error("There is no clip to pull.");
      at.clientX = held.left + held.width / 2;
      at.clientY = held.top + held.height / 2 + 4;
    }
    const frame = () => new Promise<number>((resolve) => requestAnimationFrame(resolve));
    const intervals: number[] = [];
    const handlers: number[] = [];
    const pointer = (type: string, x: number, buttons: number) =>
      lanes.dispatchEvent(
        new PointerEvent(type, {
          ...at,
          clientX: at.clientX + x,
          pointerId: 1,
          isPrimary: true,
          button: type === "pointermove" ? -1 : 0,
          buttons
        })
      );
    if (kind === "drag") {
      lanes.setPointerCapture = () => undefined;
      pointer("pointerdown", 0, 1);
    }
    let last = await frame();
    for (let i = 1; i <= frames; i++) {
      const begin = performance.now();
      if (kind === "scroll") lanes.dispatchEvent(new WheelEvent("wheel", { ...at, deltaX: amount }));
      if (kind === "zoom")
        lanes.dispatchEvent(new WheelEvent("wheel", { ...at, deltaY: amount, ctrlKey: true }));
      if (kind === "drag") pointer("pointermove", Math.round(120 * Math.sin(i / 9)) + 8, 1);
      // What it changed is flushed in microtasks.
      for (let k = 0; k < 5; k++) await Promise.resolve();
      handlers.push(performance.now() - begin);
      const now = await frame();
      intervals.push(now - last);
      last = now;
    }
    if (kind === "drag") {
      // On the body, as a real one: at the window itself it would reach the selection too.
      document.body.dispatchEvent(
        new KeyboardEvent("keydown", { key: "Escape", bubbles: true, cancelable: true })
      );
      pointer("pointerup", 0, 0);
      // A real pointer is captured again.
      Reflect.deleteProperty(lanes, "setPointerCapture");
    }
    return { intervals, handlers };
  };
}

const percentile = (values: readonly number[], p: number) => {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * p))] ?? NaN;
};

async function cpu(cdp: CDPSession): Promise<number> {
  const { metrics } = await cdp.send("Performance.getMetrics");
  return (metrics.find((m) => m.name === "TaskDuration")?.value ?? NaN) * 1000;
}

async function opened(): Promise<{ page: Page; cdp: CDPSession; ms: number }> {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.addInitScript(prepare);
  await page.addInitScript(() => {
    const layout = { bench: 330, all: 40, own: {} };
    localStorage.setItem("wring.layout", JSON.stringify(layout));
  });
  const cdp = await page.context().newCDPSession(page);
  await cdp.send("Performance.enable", { timeDomain: "threadTicks" });
  await page.goto(`${base}/projects/${id}`);
  await page.waitForFunction(() => window.ready !== undefined);
  await page.getByRole("combobox", { name: "Add a step" }).waitFor();
  return { page, cdp, ms: await page.evaluate(() => window.ready ?? NaN) };
}

/** Seconds that are seen: at the beginning of the programme, or at its end. */
async function see(page: Page, seconds: number | "all", end = false): Promise<void> {
  await page.keyboard.press("a");
  await page.waitForTimeout(300);
  if (seconds !== "all") {
    const factor = (7200 * 1.05) / seconds;
    await page.evaluate(
      ([delta, share]) => {
        const lanes = document.querySelector("#lanes") as HTMLElement;
        const box = lanes.getBoundingClientRect();
        const clientX = box.left + share * box.width;
        const at = { clientX, clientY: box.top + 60, bubbles: true, cancelable: true };
        lanes.dispatchEvent(new WheelEvent("wheel", { ...at, deltaY: -delta, ctrlKey: true }));
      },
      [Math.log(factor) / Math.log(1.0018), end ? 0.92 : 0.02] as const
    );
  }
  await page.waitForTimeout(1500);
}

interface Measured {
  readonly frame: number;
  readonly p95: number;
  readonly handler: number;
}

async function measured(
  page: Page,
  cdp: CDPSession,
  kind: "scroll" | "zoom" | "drag",
  amount: number,
  frames = FRAMES
): Promise<Measured> {
  const before = await cpu(cdp);
  const { intervals, handlers } = await page.evaluate(([k, n, a]) => window.drive(k, n, a), [
    kind,
    frames,
    amount
  ] as const);
  return {
    frame: ((await cpu(cdp)) - before) / frames,
    p95: percentile(intervals, 0.95),
    handler: median(handlers)
  };
}

function show(
  name: string,
  all: readonly Measured[],
  most: { p95?: number; frame?: number; handler?: number }
): void {
  const of = (key: keyof Measured) => median(all.map((m) => m[key]));
  if (most.handler !== undefined)
    row(`${name}: handler and what it flushes`, of("handler"), "ms", undefined, most.handler);
  if (most.frame !== undefined)
    row(`${name}: processor time a frame`, of("frame"), "ms", undefined, most.frame);
  if (most.p95 !== undefined)
    row(`${name}: frame interval, 95th percentile`, of("p95"), "ms", undefined, most.p95);
}

async function repeat(work: () => Promise<Measured>): Promise<Measured[]> {
  const all: Measured[] = [];
  for (let i = 0; i < RUNS; i++) all.push(await work());
  return all;
}

async function heap(page: Page, cdp: CDPSession) {
  await cdp.send("HeapProfiler.collectGarbage");
  const { usedSize } = await cdp.send("Runtime.getHeapUsage");
  const { nodes, jsEventListeners } = await cdp.send("Memory.getDOMCounters");
  const bitmaps = await page.evaluate(() => window.bitmapBytes);
  return { megabytes: usedSize / 1e6, nodes, jsEventListeners, bitmaps: bitmaps / 1e6 };
}

try {
  const times: number[] = [];
  for (let i = 0; i < RUNS; i++) {
    const { page, ms } = await opened();
    times.push(ms);
    await page.close();
  }
  row("opening 2,000 clips until they can be edited", median(times), "ms", undefined, 2000);

  const { page, cdp } = await opened();
  for (const seconds of [600, 60, 10, 1, 0.01] as const) {
    await see(page, seconds);
    await measured(page, cdp, "scroll", 24);
    let way = 24;
    const all = await repeat(() => measured(page, cdp, "scroll", (way = -way)));
    show(`scroll, ${seconds === 0.01 ? "samples" : `${seconds} s`} on the screen`, all, {
      p95: 20,
      frame: 12
    });
  }
  await see(page, "all");
  let way = 3;
  show("scroll, all on the screen", await repeat(() => measured(page, cdp, "scroll", (way = -way))), {
    p95: 34,
    frame: 17
  });
  const zooms: Measured[] = [];
  for (let i = 0; i < RUNS; i++) {
    await see(page, 600);
    zooms.push(await measured(page, cdp, "zoom", -60, 120));
  }
  show("zoom from ten minutes to samples", zooms, { p95: 20, frame: 12 });

  await see(page, 600);
  show("drag of one clip", await repeat(() => measured(page, cdp, "drag", 0)), { handler: 8, frame: 12 });
  await page.evaluate(() => document.body.focus());
  await page.keyboard.press("Escape");
  await page.mouse.move(1270, 130);
  // 200 clips and a few more: a marquee from the free end of the programme over all lanes in sight. Nearly all of them are seen then.
  await see(page, "all");
  const box = await page.locator("#lanes").boundingBox();
  if (!box) throw new Error("no lanes");
  await page.mouse.move(box.x + box.width - 6, box.y + 6);
  await page.keyboard.down("Shift");
  await page.mouse.down();
  await page.mouse.move(box.x + box.width - 330, box.y + 330, { steps: 5 });
  await page.mouse.up();
  await page.keyboard.up("Shift");
  await see(page, 2000, true);
  const chosen = 1 + Number(/\d+/.exec(await page.getByText(/^and \d+ more$/).innerText())?.[0]);
  const some = await repeat(() => measured(page, cdp, "drag", 0));
  show(`drag of ${chosen} clips`, some, { handler: 8, frame: 12 });
  await page.getByText(`and ${chosen - 1} more`).waitFor();
  for (const rule of ["cover", "stay clear", "push along"]) {
    await page.getByRole("radio", { name: rule, exact: true }).click();
    const ruled = await repeat(() => measured(page, cdp, "drag", 0));
    show(`drag of ${chosen} clips, ${rule}`, ruled, { handler: 8 });
  }
  await see(page, 600);
  const clicks: number[] = [];
  for (let i = 0; i < 6; i++)
    clicks.push(
      await page.evaluate(async (n) => {
        const clips = document.querySelectorAll<HTMLElement>("[data-clip]");
        const clip = clips[(n * 5) % clips.length];
        const name = clip?.getAttribute("aria-label")?.split(",")[0] ?? "";
        const begin = performance.now();
        clip?.click();
        for (;;) {
          await new Promise((resolve) => requestAnimationFrame(resolve));
          const field = document.querySelector<HTMLInputElement>("#bench .name input");
          if (field?.value === name || performance.now() - begin > 3000) return performance.now() - begin;
        }
      }, i)
    );
  row("a click on a clip until the bench shows it", median(clicks.slice(1)), "ms", undefined, 80);
  // All clips on the bench at once: four times as many as are asked for.
  const selectings: number[] = [];
  for (let i = 0; i < 5; i++) {
    selectings.push(
      await page.evaluate(async () => {
        const begin = performance.now();
        document.body.dispatchEvent(
          new KeyboardEvent("keydown", { code: "KeyA", key: "a", ctrlKey: true, bubbles: true })
        );
        for (;;) {
          await new Promise((resolve) => requestAnimationFrame(resolve));
          const title = document.querySelector("#bench .title")?.textContent ?? "";
          const rows = document.querySelectorAll("#bench [data-step]").length;
          if ((/and \d{3,} more/.test(title) && rows > 0) || performance.now() - begin > 5000)
            return performance.now() - begin;
        }
      })
    );
    await page.evaluate(() => document.querySelector<HTMLElement>("[data-clip]")?.click());
    await page.waitForTimeout(300);
  }
  row("all 2,000 clips selected until the bench shows their chain", median(selectings), "ms", undefined, 150);

  await see(page, 60);
  let direction = 40;
  const minute = () => measured(page, cdp, "scroll", (direction = -direction), 3600);
  await measured(page, cdp, "scroll", 40, 1800);
  const before = await heap(page, cdp);
  for (let i = 0; i < MINUTES; i++) await minute();
  const after = await heap(page, cdp);
  row(
    `${MINUTES} min of scrolling: heap, last beside first`,
    after.megabytes / before.megabytes,
    "times",
    undefined,
    1.15
  );
  row(
    `${MINUTES} min of scrolling: nodes, last beside first`,
    after.nodes / before.nodes,
    "times",
    undefined,
    1.15
  );
  row(
    `${MINUTES} min of scrolling: listeners, last beside first`,
    after.jsEventListeners / before.jsEventListeners,
    "times",
    undefined,
    1.15
  );
  row("bitmaps of tiles at most", Math.max(before.bitmaps, after.bitmaps), "MB", undefined, 120);
  await page.close();

  for (const [name, path_] of [
    ["home", "/"],
    ["the edit screen", `/projects/${id}`]
  ] as const) {
    const paints: number[] = [];
    for (let i = 0; i < RUNS; i++) {
      const fresh = await browser.newPage({ viewport: { width: 1280, height: 800 } });
      await fresh.goto(base + path_, { waitUntil: "load" });
      await fresh.waitForTimeout(1000);
      paints.push(
        await fresh.evaluate(
          () => performance.getEntriesByName("first-contentful-paint")[0]?.startTime ?? NaN
        )
      );
      await fresh.close();
    }
    row(`first paint of ${name}`, median(paints), "ms");
  }
} finally {
  await browser.close();
  server.kill();
  await new Promise((resolve) => server.once("exit", resolve));
  rmSync(data, { recursive: true, force: true });
}
