// When frames of the ring between worker and output were written and read, seen from a thread of its own: the page is busy drawing meanwhile.
import type { Page } from "@playwright/test";

interface Ring {
  readonly control: SharedArrayBuffer;
  readonly audio: SharedArrayBuffer;
}

/** What a watch gives, in ms since the act; Infinity for what did not happen. */
export interface Seen {
  /** Until the first frame that fits was made, and until the output read it. */
  readonly made: number;
  readonly read: number;
  /** Frames that were missing at the output meanwhile. */
  readonly missing: number;
}

/** Which frame is looked for: any, one of digital silence, or one above −48 dBFS. */
export type Sought = "any" | "silent" | "loud";

/** To be run in the page before anything else: takes hold of the ring, as `window.ring`. */
function seeRing(): void {
  const post = Worker.prototype.postMessage as (this: Worker, message: unknown, ...rest: unknown[]) => void;
  Worker.prototype.postMessage = function (this: Worker, message: unknown, ...rest: unknown[]) {
    const data = message as { type?: string; ring?: Ring };
    if (data?.type === "init" && data.ring) Object.assign(window, { ring: data.ring });
    post.call(this, message, ...rest);
  } as Worker["postMessage"];
}

/** Frames that the output has found missing so far. */
export function missingFrames(page: Page): Promise<number> {
  return page.evaluate(() =>
    Atomics.load(new Int32Array((window as unknown as { ring: Ring }).ring.control), 3)
  );
}

export async function watchable(page: Page): Promise<void> {
  await page.addInitScript(seeRing);
}

/**
 * Clicks or presses, and watches the ring for half a second.
 * @param act selector of what is clicked, or code of the key that is pressed
 */
export function watchRing(
  page: Page,
  act: { readonly click: string } | { readonly code: string; readonly key: string },
  sought: Sought
): Promise<Seen> {
  return page.evaluate(
    async ({ act, sought }) => {
      const { ring } = window as unknown as { ring: Ring };
      const control = new Int32Array(ring.control);
      const audio = new Float32Array(ring.audio);
      const frames = audio.length / 2;
      const source = `onmessage = ({ data }) => {
        const control = new Int32Array(data);
        const sleep = new Int32Array(new SharedArrayBuffer(4));
        const seen = [];
        postMessage("watching");
        const end = performance.now() + 500;
        let written = Atomics.load(control, 0), read = Atomics.load(control, 1);
        while (performance.now() < end) {
          Atomics.wait(sleep, 0, 0, 0.5);
          const w = Atomics.load(control, 0), r = Atomics.load(control, 1);
          if (w !== written || r !== read)
            seen.push([performance.timeOrigin + performance.now(), (written = w), (read = r)]);
        }
        postMessage(seen);
      };`;
      const watcher = new Worker(URL.createObjectURL(new Blob([source], { type: "text/javascript" })));
      const heard = () =>
        new Promise<unknown>((resolve) =>
          watcher.addEventListener("message", ({ data }) => resolve(data), { once: true })
        );
      watcher.postMessage(ring.control);
      await heard();
      const before = Atomics.load(control, 3);
      const from = Atomics.load(control, 0);
      const at = performance.timeOrigin + performance.now();
      if ("click" in act) {
        const button = document.querySelector<HTMLElement>(act.click);
        if (!button) throw new Error(`There is no ${act.click}.`);
        button.click();
      } else document.body.dispatchEvent(new KeyboardEvent("keydown", { ...act, bubbles: true }));
      const seen = (await heard()) as [time: number, written: number, read: number][];
      watcher.terminate();
      const fits = (frame: number) => {
        const slot = (frame & (frames - 1)) * 2;
        if (sought === "silent") return audio[slot] === 0 && audio[slot + 1] === 0;
        return sought === "any" || Math.abs(audio[slot] ?? 0) > 0.004;
      };
      const last = seen.at(-1)?.[1] ?? from;
      let frame = from;
      while (frame !== last && !fits(frame)) frame = (frame + 1) | 0;
      const past = (index: 1 | 2) => {
        const found = frame === last ? undefined : seen.find((one) => ((one[index] - frame) | 0) > 0);
        return found ? found[0] - at : Infinity;
      };
      return { made: past(1), read: past(2), missing: Atomics.load(control, 3) - before };
    },
    { act, sought }
  );
}
