// What a person waits for, in a real browser on the demo: opening it, the start of play, hearing a change.
import { chromium } from "@playwright/test";
import { spawn } from "node:child_process";
import { median, row } from "./table";

const PORT = 4696;

const server = spawn(process.execPath, ["server/index.mjs"], {
  env: { ...process.env, NODE_ENV: "production", PORT: String(PORT), WRING_LOG: "silent" },
  stdio: ["ignore", "ignore", "inherit", "ipc"]
});
await new Promise((resolve) => server.once("message", resolve));
/** Takes hold of the ring between worker and output, as `window.ring`. */
function seeRing(): void {
  const post = Worker.prototype.postMessage as (this: Worker, message: unknown, ...rest: unknown[]) => void;
  Worker.prototype.postMessage = function (this: Worker, message: unknown, ...rest: unknown[]) {
    const data = message as {
      type?: string;
      ring?: { control: SharedArrayBuffer; audio: SharedArrayBuffer };
    };
    if (data?.type === "init" && data.ring) Object.assign(window, { ring: data.ring });
    post.call(this, message, ...rest);
  } as Worker["postMessage"];
}

/** Frames that the output found missing while a clip with repairs, a reverb and dynamics was changed, and in a loop over it. */
async function busy(): Promise<number> {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.addInitScript(seeRing);
  await page.goto(`http://127.0.0.1:${PORT}/`);
  await page.getByRole("link", { name: "Last Boat to Varnsey" }).click();
  await page.getByRole("button", { name: /^Engine, starts/ }).click();
  const add = page.getByRole("combobox", { name: "Add a step" });
  for (const letters of ["noise red", "de-ess", "reverb", "limiter"]) {
    await add.click();
    await add.pressSequentially(letters);
    await add.press("Enter");
  }
  await page.getByText("measuring levels…").waitFor({ state: "hidden" });
  const type = async (name: string, text: string) => {
    const field = page.getByRole("textbox", { name, exact: true });
    await field.fill(text);
    await field.press("Enter");
  };
  const missing = () =>
    page.evaluate(() =>
      Atomics.load(
        new Int32Array((window as unknown as { ring: { control: SharedArrayBuffer } }).ring.control),
        3
      )
    );
  await type("Range from", "0:40");
  await type("Range to", "0:42");
  await page.getByRole("button", { name: "Loop the range (Shift Space)" }).click();
  await page.getByRole("button", { name: "Play (Space)" }).click();
  await page.waitForTimeout(1000);
  const before = await missing();
  for (const gain of ["1", "3", "5", "2"]) {
    await type("Gain", gain);
    await page.waitForTimeout(1500);
  }
  const after = await missing();
  await page.getByRole("button", { name: "Stop (Space)" }).click();
  // The demo stays as it was.
  for (let i = 0; i < 8; i++) await page.keyboard.press("Control+z");
  await page.waitForTimeout(1000);
  await page.close();
  return after - before;
}

/** Processor time of the page for a frame, in ms, while a clip is previewed: the head moves, meters and the pictures of a step live. */
async function livePictures(step: RegExp): Promise<number> {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(`http://127.0.0.1:${PORT}/`);
  await page.getByRole("link", { name: "Last Boat to Varnsey" }).click();
  await page.getByRole("button", { name: /^Engineer 2, starts/ }).click();
  await page.getByRole("button", { name: step }).first().click();
  await page.getByText("measuring levels…").waitFor({ state: "hidden" });
  await page.keyboard.press("Alt+p");
  await page.waitForTimeout(2000);
  const cdp = await page.context().newCDPSession(page);
  await cdp.send("Performance.enable", { timeDomain: "threadTicks" });
  const spent = async () =>
    (await cdp.send("Performance.getMetrics")).metrics.find(({ name }) => name === "TaskDuration")?.value ??
    NaN;
  const before = await spent();
  const frames = await page.evaluate(
    () =>
      new Promise<number>((resolve) => {
        const end = performance.now() + 4000;
        let n = 0;
        const count = () => (performance.now() < end ? (n++, requestAnimationFrame(count)) : resolve(n));
        requestAnimationFrame(count);
      })
  );
  const after = await spent();
  await page.close();
  return ((after - before) * 1000) / frames;
}

const browser = await chromium.launch({
  executablePath: "/usr/bin/chromium",
  args: ["--no-sandbox", "--autoplay-policy=no-user-gesture-required"]
});
try {
  const opened: number[] = [];
  const started: number[] = [];
  const changed: number[] = [];
  const switchMade: number[] = [];
  const switchRead: number[] = [];
  const gaps: number[] = [];
  for (let i = 0; i < 5; i++) {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.addInitScript(seeRing);
    await page.goto(`http://127.0.0.1:${PORT}/`);
    const begin = Date.now();
    await page.getByRole("link", { name: "Last Boat to Varnsey" }).click();
    // Interactive: a clip can be selected and its bench is there.
    await page.getByRole("button", { name: /^Wind, morning/ }).click({ position: { x: 60, y: 30 } });
    await page.getByRole("combobox", { name: "Add a step" }).waitFor();
    opened.push(Date.now() - begin);
    await page.waitForTimeout(1500);
    // Play: from the key to the first frame that the output reads.
    started.push(
      await page.evaluate(async () => {
        const { ring } = window as unknown as { ring: { control: SharedArrayBuffer } };
        const control = new Int32Array(ring.control);
        const from = control[1];
        const at = performance.now();
        document.body.dispatchEvent(new KeyboardEvent("keydown", { code: "Space", key: " ", bubbles: true }));
        while (Atomics.load(control, 1) === from && performance.now() - at < 2000)
          await new Promise((r) => setTimeout(r, 1));
        return performance.now() - at;
      })
    );
    await page.waitForTimeout(1000);
    // A change: mute the only sounding clip (wind), until the output reads silence.
    changed.push(
      await page.evaluate(async () => {
        const { ring } = window as unknown as {
          ring: { control: SharedArrayBuffer; audio: SharedArrayBuffer };
        };
        const control = new Int32Array(ring.control);
        const audio = new Float32Array(ring.audio);
        const solo = document.querySelector<HTMLButtonElement>('[aria-label="Solo Narrator"]');
        const at = performance.now();
        solo?.click();
        for (;;) {
          const slot = (Atomics.load(control, 1) & (audio.length / 2 - 1)) * 2;
          if (audio[slot] === 0 && audio[slot + 1] === 0) break;
          if (performance.now() - at > 3000) break;
          await new Promise((r) => setTimeout(r, 1));
        }
        return performance.now() - at;
      })
    );
    await page.keyboard.press("Control+z");
    await page.waitForTimeout(300);
    // A candidate: the gain of the low interview is heard or not. From the key to the first frame that is made of the other, and that the output reads.
    await page.getByRole("button", { name: /^Engineer 2/ }).click();
    await page.getByText("measuring levels…").waitFor({ state: "hidden" });
    await page.waitForTimeout(500);
    await page.keyboard.press("q");
    await page.keyboard.press("Alt+p");
    await page.waitForTimeout(1500);
    const { made, read, gap } = await page.evaluate(async () => {
      const { ring } = window as unknown as {
        ring: { control: SharedArrayBuffer; audio: SharedArrayBuffer };
      };
      const control = new Int32Array(ring.control);
      const audio = new Float32Array(ring.audio);
      const frames = audio.length / 2;
      /** The first loud frame between two, if there is one. */
      const loud = (from: number, to: number) => {
        for (let i = from; i !== to; i = (i + 1) | 0)
          if (Math.abs(audio[(i & (frames - 1)) * 2]) > 0.004) return i;
        return null;
      };
      const starved = () => Atomics.load(control, 3);
      const press = (key: string) =>
        document.body.dispatchEvent(
          new KeyboardEvent("keydown", { code: `Digit${key}`, key, bubbles: true })
        );
      press("1");
      await new Promise((r) => setTimeout(r, 900));
      // While the quiet one is heard nothing lies in the ring that is loud: the first such frame is of the other.
      const before = starved();
      const at = performance.now();
      const from = Atomics.load(control, 0);
      press("2");
      let made = 0;
      let heardAt = 0;
      let first: number | null = null;
      while (performance.now() - at < 3000 && heardAt === 0) {
        if (first === null) {
          first = loud(from, Atomics.load(control, 0));
          if (first !== null) made = performance.now() - at;
        }
        if (first !== null && ((Atomics.load(control, 1) - first) | 0) > 0) heardAt = performance.now() - at;
        await new Promise((r) => setTimeout(r, 0));
      }
      return { made, read: heardAt, gap: starved() - before };
    });
    switchMade.push(made);
    switchRead.push(read);
    gaps.push(gap);
    await page.keyboard.press("Alt+p");
    await page.close();
  }
  row(
    "frames that were missing while a chain of five steps was changed four times, and in three laps",
    await busy(),
    "",
    undefined,
    0
  );
  row(
    "live pictures of an equalizer: processor time a frame",
    await livePictures(/^2 Parametric EQ/),
    "ms",
    undefined,
    12
  );
  row(
    "live pictures of a compressor: processor time a frame",
    await livePictures(/^3 Compressor/),
    "ms",
    undefined,
    12
  );
  const checked: number[] = [];
  for (let i = 0; i < 3; i++) {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(`http://127.0.0.1:${PORT}/`);
    await page.getByRole("link", { name: "Last Boat to Varnsey" }).click();
    await page.getByRole("combobox", { name: "Add a step" }).waitFor();
    await page.waitForTimeout(1500);
    const found = page.getByText(/places will pop/);
    const check = async (start: () => Promise<void>): Promise<number> => {
      const begin = Date.now();
      await start();
      await page.getByText("Listening to all joins").waitFor({ state: "hidden" });
      await found.waitFor();
      return Date.now() - begin;
    };
    const first = await check(() => page.keyboard.press("p"));
    const again = await check(() => page.getByRole("button", { name: "Check again" }).click());
    checked.push(again);
    if (i === 0) row("join check of the demo, the first time (worker and sound come)", first, "ms");
    await page.close();
  }
  row("join check of the demo, with its sound at hand", median(checked), "ms", undefined, 500);
  row("opening the demo project until a clip is on the bench", median(opened), "ms", undefined, 2000);
  row("from the key to the first frame played", median(started), "ms", undefined, 150);
  row("from the key of another candidate until it is being made", median(switchMade), "ms", undefined, 30);
  row("from the key of another candidate until the output reads it", median(switchRead), "ms", undefined, 30);
  row(
    "frames that were missing at the output in five switches",
    gaps.reduce((sum, one) => sum + one, 0),
    "",
    undefined,
    0
  );
  row("from a change to its full effect at the output", median(changed), "ms", undefined, 70);
} finally {
  await browser.close();
  server.kill();
  // It makes a backup before it ends.
  await new Promise((resolve) => server.once("exit", resolve));
}
