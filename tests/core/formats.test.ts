import { describe, expect, it } from "vitest";
import { Buffer } from "../../src/lib/core/kernels/memory";
import { DITHER_SEED, decodeSamples, encodeSamples } from "../../src/lib/core/formats/samples";
import { readWavLayout } from "../../src/lib/core/formats/wavReader";
import {
  bytesPerSample,
  wavHeader,
  WAV_HEADER_BYTES,
  type OutputFormat
} from "../../src/lib/core/formats/wavWriter";
import { noise, sine } from "./signals";
import { riff } from "./wavBytes";

const layout = (bytes: Uint8Array) => readWavLayout((at, n) => bytes.subarray(at, at + n), bytes.length);

function encode(format: OutputFormat, left: Float32Array, right: Float32Array, seed: number): Uint8Array {
  const n = left.length;
  const planar = new Buffer(n * 8);
  planar.f32.set(left);
  planar.f32.set(right, n);
  const out = new Buffer(n * 2 * bytesPerSample(format));
  encodeSamples(format, planar.ptr, n * 4, n, 2, out.ptr, seed);
  const bytes = out.u8.slice();
  planar.release();
  out.release();
  return bytes;
}

function decode(format: OutputFormat, bytes: Uint8Array, frames: number): [Float32Array, Float32Array] {
  const raw = new Buffer(bytes.length);
  raw.u8.set(bytes);
  const planar = new Buffer(frames * 8);
  decodeSamples(format, raw.ptr, frames, 2, planar.ptr, frames * 4);
  const pair: [Float32Array, Float32Array] = [
    planar.f32.slice(0, frames),
    planar.f32.slice(frames, 2 * frames)
  ];
  raw.release();
  planar.release();
  return pair;
}

describe("WAV", () => {
  it.each(["int16", "int24", "float32"] as const)(
    "%s: header and samples are read back as written",
    (format) => {
      const frames = 1001;
      const header = wavHeader(format, 2, 44100, frames);
      expect(header.length).toBe(WAV_HEADER_BYTES);
      const file = new Uint8Array([...header, ...encode(format, noise(frames), noise(frames, 1, 7), 0)]);
      expect(layout(file)).toMatchObject({
        sampleRate: 44100,
        channels: 2,
        kind: format,
        frames,
        dataOffset: header.length
      });
    }
  );

  it("float32 is exact both ways; integers are exact once quantized", () => {
    const [l, r] = [noise(777), noise(777, 1, 3)];
    expect(decode("float32", encode("float32", l, r, 0), 777)).toEqual([l, r]);
    for (const format of ["int16", "int24"] as const) {
      const once = decode(format, encode(format, l, r, 0), 777);
      expect(decode(format, encode(format, ...once, 0), 777)).toEqual(once);
      const lsb = format === "int16" ? 2 ** -15 : 2 ** -23;
      once[0].forEach((x, i) => expect(Math.abs(x - l[i])).toBeLessThanOrEqual(lsb * 0.51 + 1e-8));
    }
  });

  it("dithers: a tone under one step survives, the error is noise of 3/12 LSB² (triangular dither)", () => {
    const lsb = 2 ** -15;
    const tone = sine(1000, 20 * Math.log10(lsb * 0.4), 48000);
    const [plain] = decode("int16", encode("int16", tone, tone, 0), tone.length);
    expect(plain.every((x) => x === 0)).toBe(true);
    const [out] = decode("int16", encode("int16", tone, tone, DITHER_SEED), tone.length);
    let dot = 0;
    let error = 0;
    out.forEach((x, i) => {
      dot += x * tone[i];
      error += (x - tone[i]) ** 2;
    });
    const energy = tone.reduce((a, x) => a + x * x, 0);
    expect(dot / energy).toBeCloseTo(1, 1);
    expect(error / tone.length / lsb ** 2).toBeCloseTo(3 / 12, 1);
  });

  it.each(["int16", "int24"] as const)(
    "writes samples that %s holds as they are, and dithers what was computed",
    (format) => {
      const held = decode(format, encode(format, noise(6400), noise(6400, 0.3, 3), 0), 6400);
      expect(decode(format, encode(format, ...held, DITHER_SEED), 6400)).toEqual(held);
      // Half a decibel louder from the middle on: that part has its dither.
      const mixed = held.map((x) => x.map((v, i) => (i < 3200 ? v : v * 1.06)));
      const plain = decode(format, encode(format, mixed[0], mixed[1], 0), 6400);
      const out = decode(format, encode(format, mixed[0], mixed[1], DITHER_SEED), 6400);
      expect(out[0].subarray(0, 3200)).toEqual(held[0].subarray(0, 3200));
      const other = out[0].reduce((count, x, i) => count + Number(x !== plain[0][i]), 0);
      expect(other).toBeGreaterThan(500);
    }
  );

  it("writes RF64 beyond 4 GB, and reads it back", () => {
    const frames = 2 ** 30;
    const header = wavHeader("float32", 2, 48000, frames);
    const size = header.length + frames * 8;
    const found = readWavLayout((at, n) => header.subarray(at, at + n), size);
    expect(found.frames).toBe(frames);
  });

  it.each([
    ["nothing", new Uint8Array(0), "it is empty"],
    ["text", new TextEncoder().encode("This is a letter, not a sound."), "it is not a WAV audio file"],
    ["a cut header", riff({}).subarray(0, 30), "truncated"],
    ["a cut body", riff({ frames: 100 }).subarray(0, 100), "truncated"],
    ["no channels", riff({ channels: 0 }), "no channels"],
    ["9 channels", riff({ channels: 9 }), "9 channels"],
    ["100 Hz", riff({ rate: 100 }), "100 Hz"],
    ["800 kHz", riff({ rate: 800000 }), "800000 Hz"],
    ["12 bits", riff({ bits: 12 }), "12 bits"],
    ["a compressed coding", riff({ tag: 85 }), "compressed"],
    ["a contradiction", riff({ align: 7 }), "contradicts"],
    ["no samples", riff({ frames: 0 }), "no sound"]
  ])("refuses %s with a reason", (_, bytes, reason) => {
    expect(() => layout(bytes)).toThrow(reason);
  });

  it("skips chunks it does not know, odd ones with their padding", () => {
    expect(layout(riff({ extra: 7, frames: 5 })).frames).toBe(5);
  });

  it("takes a data size of 0xFFFFFFFF as 'to the end of the file'", () => {
    expect(layout(riff({ frames: 12, dataSize: 0xffffffff })).frames).toBe(12);
  });
});
