// Files made to break the reader: it answers with a layout that lies inside the file, or with a fault that reads as a sentence.
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { FileFault } from "../../src/lib/core/formats/fault";
import { readWavLayout } from "../../src/lib/core/formats/wavReader";
import { bytesPerSample, wavHeader, WAV_HEADER_BYTES } from "../../src/lib/core/formats/wavWriter";
import { riff, wavBytes } from "./wavBytes";
import { noise } from "./signals";

function check(bytes: Uint8Array): void {
  try {
    const { frames, dataOffset, bytesPerFrame, channels, sampleRate } = readWavLayout(
      (at, n) => bytes.subarray(Math.min(at, bytes.length), Math.min(at + n, bytes.length)),
      bytes.length
    );
    expect(frames).toBeGreaterThan(0);
    expect(dataOffset + frames * bytesPerFrame).toBeLessThanOrEqual(bytes.length);
    expect(channels).toBeGreaterThanOrEqual(1);
    expect(channels).toBeLessThanOrEqual(8);
    expect(sampleRate).toBeGreaterThanOrEqual(8000);
  } catch (error) {
    if (!(error instanceof FileFault)) throw error;
    expect(error.message).toMatch(/^it[s ]/);
  }
}

describe("the WAV reader", () => {
  it("takes any bytes at all", () => {
    fc.assert(fc.property(fc.uint8Array({ maxLength: 400 }), check), { numRuns: 500 });
  });

  it("takes a good file with any bytes of its header changed", () => {
    const good = riff({ frames: 50, channels: 2, extra: 7 });
    const change = fc.array(fc.tuple(fc.nat({ max: 70 }), fc.nat({ max: 255 })), {
      minLength: 1,
      maxLength: 6
    });
    fc.assert(
      fc.property(change, (changes) => {
        const bytes = good.slice();
        for (const [at, value] of changes) bytes[at] = value;
        check(bytes);
      }),
      { numRuns: 1000 }
    );
  });

  it("takes a good file cut off anywhere", () => {
    const good = wavBytes({ channels: [noise(40, 1), noise(40, 1)], sampleRate: 44100, kind: "int24" });
    for (let n = 0; n <= good.length; n++) check(good.subarray(0, n));
  });

  it.each(["int16", "int24", "float32"] as const)("reads what the writer's header says, %s", (format) => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 300 }),
        fc.constantFrom(1, 2),
        fc.constantFrom(8000, 44100, 96000),
        (frames, channels, rate) => {
          const header = wavHeader(format, channels, rate, frames);
          expect(header.length).toBe(WAV_HEADER_BYTES);
          const bytes = new Uint8Array(header.length + frames * channels * bytesPerSample(format) + 1);
          bytes.set(header);
          const layout = readWavLayout((at, n) => bytes.subarray(at, at + n), bytes.length);
          expect(layout).toMatchObject({ frames, channels, sampleRate: rate, kind: format });
        }
      )
    );
  });
});
