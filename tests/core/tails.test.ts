// The measured tail of a render: whatever an effect hears, it falls silent again, and holds no offset.
import { describe, expect, it } from "vitest";
import { effects } from "../../src/lib/core/effects/registry";
import { kernels } from "../../src/lib/core/kernels/instance";
import { renderClip } from "../../src/lib/core/render/clipRender";
import { peakOf } from "./analysis";
import { ArraySource, EVERY_EFFECT, clipOf, noise, RATE, sine } from "./signals";

const FRAMES = RATE / 2;
const HANDLE = 2000;
const sounds: Record<string, Float32Array> = {
  silence: new Float32Array(FRAMES + HANDLE),
  "an offset": new Float32Array(FRAMES + HANDLE).fill(0.25),
  "a sine on an offset": sine(440, -12, FRAMES + HANDLE).map((x) => x + 0.1),
  noise: noise(FRAMES + HANDLE, 0.5)
};
const source = new ArraySource(
  Object.fromEntries(Object.entries(sounds).map(([name, x]) => [name, [x, x.map((v) => v * 0.8)]]))
);

/** What a render makes of the clip, and appends after it, without its handle. */
function rendered(
  name: string,
  effect: string,
  params: Record<string, number | string | boolean>
): { clip: Float32Array; tail: Float32Array } {
  const clip = clipOf(name, FRAMES, { steps: [{ id: "one", effect, params }] });
  const out: number[] = [];
  renderClip(
    { clip, sampleRate: RATE, recordingFrames: FRAMES + HANDLE, handleFrames: HANDLE, tailFrames: "auto" },
    source,
    (l, _r, n) => out.push(...new Float32Array(kernels.memory.buffer, l, n))
  );
  const all = Float32Array.from(out);
  return { clip: all.subarray(0, FRAMES), tail: all.subarray(FRAMES + HANDLE) };
}

describe.each(Object.keys(sounds))("the measured tail, with %s in it,", (name) => {
  it.each(effects.map(({ id }) => id))("ends after %s, 60 dB down", (effect) => {
    const { params = {} } = EVERY_EFFECT.find((step) => step.effect === effect) ?? {};
    const { clip, tail } = rendered(name, effect, params);
    expect(tail.length).toBeLessThan(10 * RATE);
    expect(peakOf(tail, Math.max(0, tail.length - 4800))).toBeLessThanOrEqual(
      peakOf(clip) * 10 ** (-60 / 20)
    );
  });
});

describe("the offset that is removed", () => {
  it("ends with the clip: behind the handle nothing but a ramp of 5 ms is left", () => {
    const { tail } = rendered("an offset", "dc-removal", { method: "mean" });
    expect(peakOf(tail, 0.005 * RATE)).toBe(0);
  });
});
