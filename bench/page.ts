// What a person waits for, in a real browser on the demo: opening it, the start of play, hearing a change.
import { chromium } from "@playwright/test";
import { spawn } from "node:child_process";
import { missingFrames, watchable, watchRing } from "./ringWatch";
import { median, row } from "./table";

const PORT = 4696;

const server = spawn(process.execPath, ["server/index.mjs"], {
  env: { ...process.env, NODE_ENV: "production", PORT: String(PORT), WRING_LOG: "silent" },
  stdio: ["ignore", "ignore", "inherit", "ipc"]
});
await new Promise((resolve) => server.once("message", resolve));
/** Frames that the output found missing while a clip with repairs, a reverb and dynamics was changed, and in a loop over it. */
async function busy(): Promise<number> {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await watchable(page);
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
  await type("Range from", "0:40");
  await type("Range to", "0:42");
  await page.getByRole("button", { name: "Loop the range (Shift Space)" }).click();
  await page.getByRole("button", { name: "Play (Space)" }).click();
  await page.waitForTimeout(1000);
  const before = await missingFrames(page);
  for (const gain of ["1", "3", "5", "2"]) {
    await type("Gain", gain);
    await page.waitForTimeout(1500);
  }
  const after = await missingFrames(page);
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
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, bypassCSP: true });
    await watchable(page);
    await page.goto(`http://127.0.0.1:${PORT}/`);
    const begin = Date.now();
    await page.getByRole("link", { name: "Last Boat to Varnsey" }).click();
    // Interactive: a clip can be selected and its bench is there.
    await page.getByRole("button", { name: /^Wind, morning/ }).click({ position: { x: 60, y: 30 } });
    await page.getByRole("combobox", { name: "Add a step" }).waitFor();
    opened.push(Date.now() - begin);
    await page.waitForTimeout(1500);
    // Play: from the key to the first frame that the output reads.
    started.push((await watchRing(page, { code: "Space", key: " " }, "any")).read);
    await page.waitForTimeout(1000);
    // A change: mute the only sounding clip (wind), until the output reads silence.
    changed.push((await watchRing(page, { click: '[aria-label="Solo Narrator"]' }, "silent")).read);
    await page.keyboard.press("Control+z");
    await page.waitForTimeout(300);
    // A candidate: the gain of the low interview is heard or not. While the quiet one is heard no frame is loud: the first such frame is of the other.
    await page.getByRole("button", { name: /^Engineer 2/ }).click();
    await page.getByText("measuring levels…").waitFor({ state: "hidden" });
    await page.waitForTimeout(500);
    await page.keyboard.press("q");
    await page.keyboard.press("Alt+p");
    await page.waitForTimeout(1500);
    await page.keyboard.press("1");
    await page.waitForTimeout(900);
    const { made, read, missing } = await watchRing(page, { code: "Digit2", key: "2" }, "loud");
    switchMade.push(made);
    switchRead.push(read);
    gaps.push(missing);
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
    // In the page: a tool that clicks from outside takes its time for that.
    const again = await page.evaluate(async () => {
      const button = [...document.querySelectorAll("button")].find((one) => one.innerText === "Check again");
      if (!button) throw new Error("There is nothing to check again with.");
      const begin = performance.now();
      button.click();
      // It cannot be clicked while it is checked.
      do await new Promise((resolve) => requestAnimationFrame(resolve));
      while (button.disabled);
      return performance.now() - begin;
    });
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
