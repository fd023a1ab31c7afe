// What a delivery is made of: broadcast extension, markers, names, gain, noise shaping.
import { describe, expect, it } from "vitest";
import { correction, deliveryGain, shortfall } from "../../src/lib/core/delivery/level";
import { distinct, fileNameOf, patternFault } from "../../src/lib/core/delivery/names";
import { marksOf } from "../../src/lib/core/delivery/marks";
import { DELIVERY_PRESETS } from "../../src/lib/core/delivery/presets";
import {
  deliverySettingsSchema,
  isTagDate,
  settingsFault,
  standardSettings
} from "../../src/lib/core/delivery/settings";
import { bextChunk, readBext } from "../../src/lib/core/formats/bext";
import { markerChunks, readMarkers } from "../../src/lib/core/formats/cues";
import { DITHER_SEED, encodeSamples, SHAPING_BYTES } from "../../src/lib/core/formats/samples";
import { wavHeader, wavHeaderBytes } from "../../src/lib/core/formats/wavWriter";
import { readWavLayout } from "../../src/lib/core/formats/wavReader";
import { chunksOf } from "../../src/lib/core/formats/wavChunks";
import { Buffer as KernelBuffer } from "../../src/lib/core/kernels/memory";
import type { Measurement } from "../../src/lib/core/measure/meter";
import { documentOf, newProject, newSection } from "../../src/lib/core/session/make";
import { spectrumOf } from "./analysis";

const extension = {
  description: "Überfahrt",
  originator: "Harbour office",
  originatorReference: "FD-1",
  date: "2031-04-09",
  time: "06:12:00",
  timeReference: 2 ** 33 + 5,
  loudness: {
    integrated: -23.004,
    range: 6.2,
    maxTruePeak: -1.5,
    maxMomentary: undefined,
    maxShortTerm: -21.1
  },
  codingHistory: "A=PCM,F=48000,W=24,M=stereo,T=Wring\r\n"
};

describe("the broadcast extension", () => {
  it("lies as EBU Tech 3285 version 2 has it", () => {
    const { id, body } = bextChunk(extension);
    const view = new DataView(body.buffer);
    expect([id, body.length]).toEqual(["bext", 602 + extension.codingHistory.length]);
    // Offsets of table 1: time reference 338, version 346, loudness value 412 to 420, in hundredths; 0x7fff where it is not known.
    expect([view.getUint32(338, true), view.getUint32(342, true), view.getUint16(346, true)]).toEqual([
      5, 2, 2
    ]);
    expect([412, 414, 416, 418, 420].map((at) => view.getInt16(at, true))).toEqual([
      -2300, 620, -150, 0x7fff, -2110
    ]);
  });

  it("is read as it was written", () => {
    const { codingHistory, ...rest } = extension;
    expect(readBext(bextChunk(extension).body)).toEqual({
      ...rest,
      loudness: { ...extension.loudness, integrated: -23 },
      codingHistory: codingHistory.trim()
    });
  });

  it("that is cut short is none", () => {
    expect(readBext(new Uint8Array(300))).toBeUndefined();
  });
});

describe("markers", () => {
  const markers = [
    { start: 100, length: 0, name: "Gull" },
    { start: 48000, length: 2400, name: "Überfahrt, אוויר" }
  ];

  it("are read as they were written, in a file that is read as before", () => {
    const chunks = markerChunks(markers);
    const head = wavHeader("int16", 2, 48000, 100, chunks);
    expect(head.length).toBe(wavHeaderBytes(chunks));
    const file = new Uint8Array(head.length + 400);
    file.set(head);
    const read = (at: number, n: number) => file.subarray(at, at + n);
    expect(readWavLayout(read, file.length)).toMatchObject({ frames: 100, dataOffset: head.length });
    const bodies = [...chunksOf(read, file.length)].map(({ id, at, length = 0 }) => ({
      id,
      body: read(at, length)
    }));
    const cue = bodies.find((c) => c.id === "cue ")?.body ?? new Uint8Array();
    const lists = bodies.filter((c) => c.id === "LIST").map((c) => c.body);
    expect(readMarkers(cue, lists)).toEqual(markers);
  });

  it("that promise more than there is are read as far as they go", () => {
    const [cue] = markerChunks(markers);
    const cut = cue?.body.slice(0, 30) ?? new Uint8Array();
    new DataView(cut.buffer).setUint32(0, 4000000000, true);
    expect(readMarkers(cut, [new Uint8Array([1, 2, 3])])).toEqual([
      { start: 100, length: 0, name: "Marker 1" }
    ]);
  });

  it("of sections lie where these lie in the file", () => {
    const document = documentOf(newProject("P", 48000), {
      sections: [
        newSection("a", "A", 0, 1000),
        newSection("b", "B", 4800, 9600),
        newSection("c", "C", 48000, 10)
      ]
    });
    const item = { sound: "mix" as const, id: "", name: "", from: 9600, to: 19200 };
    // At twice the rate, with 960 frames of the file cut away and 9600 of silence in front.
    expect(marksOf(document, item, { ratio: 2, cut: 960 - 9600, frames: 28000 })).toEqual([
      { name: "B", start: 0, length: 8640 + 9600 }
    ]);
  });
});

describe("names", () => {
  const item = {
    project: "Last boat",
    name: "Call: 3/4?",
    number: 3,
    count: 120,
    date: new Date(2031, 3, 9),
    projectRate: 44100
  };
  const settings = { ...standardSettings(), level: { of: "integrated" as const, to: -16 } };

  it("are filled in, without what file systems refuse", () => {
    const pattern = "{number} {project} - {name} {date} {rate} {format} {level}";
    expect(fileNameOf({ ...settings, pattern }, item)).toBe(
      "003 Last boat - Call_ 3_4_ 2031-04-09 44.1k wav24 -16LUFS.wav"
    );
    expect(fileNameOf({ ...settings, pattern: "{name} {format}" }, item, "mkv")).toBe("Call_ 3_4_ mkv.mkv");
    expect(fileNameOf({ ...settings, pattern: "../{name}\n" }, { ...item, name: "\u202Egnp" })).toBe(
      "__gnp_.wav"
    );
  });

  it("are short enough for any file system, whole characters only", () => {
    const name = fileNameOf({ ...settings, pattern: "{name}" }, { ...item, name: "🌊".repeat(100) });
    expect(new TextEncoder().encode(name).length).toBeLessThanOrEqual(255);
    expect(name).toMatch(/^🌊+\.wav$/u);
  });

  it("never are the same twice, whatever their case", () => {
    expect(distinct(["a.wav", "A.wav", "a 2.wav", "b.wav"], ["B.wav"])).toEqual([
      "a.wav",
      "A 2.wav",
      "a 2 2.wav",
      "b 2.wav"
    ]);
  });

  it("with an unknown field are a fault", () => {
    expect(patternFault("{project} {colour}")).toMatch(/"\{colour\}" is no field/);
    expect(patternFault("  ")).toBe("The name of the files is empty.");
    expect(patternFault("{project} {name}")).toBeUndefined();
  });
});

describe("gain", () => {
  const measured = { integratedLufs: -20, truePeakDbtp: -6, samplePeakDbfs: -6.5 } as Measurement;

  it("brings to a level, but no higher than the ceiling", () => {
    expect(deliveryGain(measured, { level: { of: "integrated", to: -16 }, ceilingDbtp: null })).toBe(4);
    expect(deliveryGain(measured, { level: { of: "integrated", to: -14 }, ceilingDbtp: -1 })).toBe(5);
    expect(deliveryGain(measured, { level: { of: "peak", to: -1 }, ceilingDbtp: null })).toBe(5.5);
  });

  it("without a level only comes down", () => {
    expect(deliveryGain(measured, { level: null, ceilingDbtp: -1 })).toBe(0);
    expect(deliveryGain(measured, { level: null, ceilingDbtp: -9 })).toBe(-3);
    const silence = { ...measured, integratedLufs: -Infinity, truePeakDbtp: -Infinity };
    expect(deliveryGain(silence, { level: { of: "integrated", to: -16 }, ceilingDbtp: -1 })).toBe(0);
  });

  it("is lowered where coding passes the ceiling", () => {
    const written = (truePeakDbtp: number, integratedLufs: number) =>
      ({ ...measured, truePeakDbtp, integratedLufs }) as Measurement;
    const level = { of: "integrated" as const, to: -16 };
    expect(correction(written(-0.4, -20), { level: null, ceilingDbtp: -1 })).toBeCloseTo(-0.62, 6);
    expect(correction(written(-1.001, -20), { level: null, ceilingDbtp: -1 })).toBe(0);
    expect(correction(written(3, -20), { level: null, ceilingDbtp: null })).toBe(0);
    // And raised where coding took level away: to the level, or as far as the ceiling allows.
    expect(correction(written(-3, -16.5), { level, ceilingDbtp: -1 })).toBeCloseTo(0.5, 6);
    expect(correction(written(-1.3, -16.5), { level, ceilingDbtp: -1 })).toBeCloseTo(0.28, 6);
    expect(correction(written(-3, -16.05), { level, ceilingDbtp: -1 })).toBe(0);
    expect([shortfall(written(-1, -19), { level }), shortfall(written(-1, -16), { level })]).toEqual([3, 0]);
  });
});

describe("dates of tags", () => {
  it("are years, months and days that there are", () => {
    expect(["2031", "2031-04", "2031-04-09", "2032-02-29"].map(isTagDate)).toEqual([true, true, true, true]);
    const wrong = ["", "31", "spring", "2031-13", "2031-02-29", "2031-4-9", "09.04.2031", "2031-04-09T06:12"];
    expect(wrong.filter(isTagDate)).toEqual([]);
  });
});

describe("presets that come along", () => {
  it.each(DELIVERY_PRESETS.map((p) => [p.name, p.settings] as const))(
    "%s can be carried out",
    (_name, settings) => {
      expect(deliverySettingsSchema.safeParse(settings).success).toBe(true);
      expect(settingsFault(settings)).toBeUndefined();
    }
  );
});

describe("shaped dither", () => {
  const n = 1 << 16;
  const RATE = 48000;

  /** Noise that rounding a quiet tone to 16 bit leaves, 1 is full scale. */
  function noiseLeft(shaped: boolean): Float64Array {
    const planar = new KernelBuffer(n * 4);
    const out = new KernelBuffer(n * 2);
    const errors = new KernelBuffer(SHAPING_BYTES);
    for (let i = 0; i < n; i++) planar.f32[i] = 0.01 * Math.sin((2 * Math.PI * 997 * i) / RATE);
    encodeSamples("int16", planar.ptr, n * 4, n, 1, out.ptr, DITHER_SEED, shaped ? errors.ptr : 0);
    const view = new DataView(out.u8.buffer, out.ptr, n * 2);
    const left = Float64Array.from(
      { length: n },
      (_, i) => view.getInt16(2 * i, true) / 32768 - planar.f32[i]
    );
    for (const buffer of [planar, out, errors]) buffer.release();
    return left;
  }

  /** Power of a band in dB, without a reference. */
  function bandLevel(x: Float64Array, from: number, to: number): number {
    const { re, im } = spectrumOf(x);
    let power = 0;
    for (let k = Math.round((from / RATE) * n); k < (to / RATE) * n; k++) power += re[k] ** 2 + im[k] ** 2;
    return 10 * Math.log10(power);
  }

  it("leaves less noise where ears hear best, more where they hear least", () => {
    const [flat, shaped] = [noiseLeft(false), noiseLeft(true)];
    const change = (from: number, to: number) => bandLevel(shaped, from, to) - bandLevel(flat, from, to);
    // Lipshitz, Vanderkooy and Wannamaker (1991), figure of the filter of five taps: its zero lies near 4 kHz.
    expect(change(3000, 5000)).toBeLessThan(-14);
    expect(change(500, 2000)).toBeLessThan(-6);
    expect(change(15000, 22000)).toBeGreaterThan(8);
  });

  it("writes what the depth holds exactly as it is", () => {
    const planar = new KernelBuffer(640 * 4);
    const out = new KernelBuffer(640 * 2);
    const errors = new KernelBuffer(SHAPING_BYTES);
    for (let i = 0; i < 640; i++) planar.f32[i] = ((i * 37) % 2000) / 32768;
    encodeSamples("int16", planar.ptr, 640 * 4, 640, 1, out.ptr, DITHER_SEED, errors.ptr);
    const view = new DataView(out.u8.buffer, out.ptr, 1280);
    expect(Array.from({ length: 640 }, (_, i) => view.getInt16(2 * i, true))).toEqual(
      Array.from({ length: 640 }, (_, i) => (i * 37) % 2000)
    );
    for (const buffer of [planar, out, errors]) buffer.release();
  });
});
