import { describe, expect, it } from "vitest";
import { frameAt, frameOf, frameText, sampleOf, TIMECODES } from "../../src/lib/core/units/timecode";
import {
  gridStep,
  lengthOf,
  lengthText,
  placeOf,
  placeText,
  type TimeFormat
} from "../../src/lib/core/units/timeFormat";

const format = (change: Partial<TimeFormat>): TimeFormat => ({
  kind: "clock",
  timecode: "25",
  tempo: 120,
  beats: 4,
  ...change
});

describe("timecode", () => {
  // SMPTE ST 12-1, drop frame: "the first two frame numbers (00 and 01) shall be omitted … at the start of each minute except minutes
  // 00, 10, 20, 30, 40 and 50": 107,892 frames an hour, 17,982 in ten minutes.
  it("with dropped numbers leaves out 00 and 01 of every minute but each tenth", () => {
    expect(frameText(1799, "29.97 drop")).toBe("00:00:59;29");
    expect(frameText(1800, "29.97 drop")).toBe("00:01:00;02");
    expect(frameText(3597, "29.97 drop")).toBe("00:01:59;29");
    expect(frameText(3598, "29.97 drop")).toBe("00:02:00;02");
    expect(frameText(17981, "29.97 drop")).toBe("00:09:59;29");
    expect(frameText(17982, "29.97 drop")).toBe("00:10:00;00");
    expect(frameText(107892, "29.97 drop")).toBe("01:00:00;00");
    expect(frameText(24 * 107892 - 1, "29.97 drop")).toBe("23:59:59;29");
    expect(frameOf("00:01:00;00", "29.97 drop")).toBeUndefined();
    expect(frameOf("00:10:00;00", "29.97 drop")).toBe(17982);
  });

  it("with dropped numbers names every frame once and in order, and keeps within 2 frames of the clock over an hour", () => {
    let last = "";
    for (let frame = 0; frame < 107892; frame++) {
      const text = frameText(frame, "29.97 drop");
      if (text <= last) throw new Error(`${text} after ${last}`);
      if (frameOf(text, "29.97 drop") !== frame) throw new Error(`${text} is not ${frame}`);
      last = text;
    }
    const hour = frameAt(3600 * 48000, 48000, "29.97 drop");
    expect(Math.abs(hour - 107892)).toBeLessThanOrEqual(1);
    expect(frameText(hour, "29.97 drop")).toBe("01:00:00;00");
    // Without, an hour of numbers lasts 3.6 s longer than an hour.
    expect(frameText(frameAt(3600 * 48000, 48000, "29.97"), "29.97")).toBe("00:59:56:12");
  });

  it.each(TIMECODES)(
    "%s: the first sample of a frame shows that frame, the one before it the frame before",
    (timecode) => {
      for (const rate of [44100, 48000, 96000])
        for (const frame of [1, 2, 23, 29, 30, 1001, 1800, 17982, 2_000_003]) {
          const sample = sampleOf(frame, rate, timecode);
          expect(frameAt(sample, rate, timecode)).toBe(frame);
          expect(frameAt(sample - 1, rate, timecode)).toBe(frame - 1);
        }
    }
  );
});

describe("times as they are typed", () => {
  const RATE = 48000;

  it("are read back as they are written, in every format", () => {
    for (const kind of ["clock", "samples", "timecode", "bars"] as const)
      for (const sample of [0, 48000, 2_880_000, 100_000_000]) {
        const f = format({ kind });
        const back = placeOf(placeText(sample, RATE, f), RATE, f) ?? NaN;
        expect(Math.abs(back - sample)).toBeLessThanOrEqual(
          kind === "timecode" ? 1920 : kind === "clock" ? 24 : 26
        );
        expect(placeText(back, RATE, f)).toBe(placeText(sample, RATE, f));
      }
  });

  it("may be short, or in another unit than that shown", () => {
    const bars = format({ kind: "bars", tempo: 90, beats: 3 });
    expect(placeOf("3.2", RATE, bars)).toBe(7 * 32000);
    expect(lengthOf("1.0.000", RATE, bars)).toBe(3 * 32000);
    expect(lengthText(3 * 32000, RATE, bars)).toBe("1.0.000");
    expect(placeOf("250 ms", RATE, bars)).toBe(12000);
    expect(placeOf("5:00", RATE, format({ kind: "timecode" }))).toBe(5 * RATE);
    expect(placeOf("480 samples", RATE, format({}))).toBe(480);
    expect(placeOf("12", RATE, format({ kind: "samples" }))).toBe(12);
    for (const [text, kind] of [
      ["0.2.000", "bars"],
      ["1.5.000", "bars"],
      ["00:00:00:25", "timecode"],
      ["-1 s", "clock"],
      ["abc", "samples"]
    ] as const)
      expect(placeOf(text, RATE, format({ kind }))).toBeUndefined();
  });

  it("have a grid in their own measure", () => {
    expect(gridStep(4000, RATE, format({}))).toBe(4800);
    expect(gridStep(100, RATE, format({ kind: "timecode" }))).toBe(1920);
    expect(gridStep(20000, RATE, format({ kind: "bars" }))).toBe(24000);
    expect(gridStep(30, RATE, format({ kind: "samples" }))).toBe(50);
  });
});
