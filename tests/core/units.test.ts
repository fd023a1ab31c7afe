import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { dbToGain, formatDb, gainToDb, parseDb, powerToDb } from "../../src/lib/core/units/decibels";
import { formatTime, parseTime } from "../../src/lib/core/units/time";

describe("decibels", () => {
  it("are 20 log10 of an amplitude and 10 log10 of a power", () => {
    expect(dbToGain(0)).toBe(1);
    expect(dbToGain(-Infinity)).toBe(0);
    expect(gainToDb(0)).toBe(-Infinity);
    fc.assert(
      fc.property(fc.double({ min: -120, max: 48, noNaN: true }), (db) => {
        expect(dbToGain(db)).toBeCloseTo(10 ** (db / 20), 9);
        expect(gainToDb(dbToGain(db))).toBeCloseTo(db, 9);
        expect(powerToDb(dbToGain(db) ** 2)).toBeCloseTo(db, 8);
      })
    );
  });

  it.each([
    [-18.24, 1, false, "-18.2"],
    [3, 1, true, "+3.0"],
    [-0.04, 1, true, "0.0"],
    [0.04, 1, true, "0.0"],
    [-Infinity, 1, false, "-∞"],
    [12.345, 2, false, "12.35"]
  ])("%f with %i decimals reads as people write it", (db, decimals, sign, text) => {
    expect(formatDb(db, decimals, sign)).toBe(text);
  });
});

describe("typed decibels", () => {
  it.each([
    ["-3.5", -3.5],
    ["+2 dB", 2],
    [" 1,5db ", 1.5],
    [".5", 0.5]
  ])('"%s" is %f dB', (text, db) => {
    expect(parseDb(text)).toBe(db);
  });

  it.each(["", "loud", "3 %", "1.2.3", "--4", "1e3"])('"%s" is none', (text) => {
    expect(parseDb(text)).toBeUndefined();
  });
});

describe("time", () => {
  it.each([
    [0, 3, "0:00.000"],
    [12.48, 3, "0:12.480"],
    [59.9996, 3, "1:00.000"],
    [3723.4, 1, "1:02:03.4"],
    [75, 0, "1:15"],
    [-1.5, 1, "-0:01.5"]
  ])("%f s with %i decimals", (seconds, decimals, text) => {
    expect(formatTime(seconds, decimals)).toBe(text);
  });

  it.each([
    ["12.5", 12.5],
    ["12,5", 12.5],
    ["1:02.5", 62.5],
    ["1:00:00", 3600],
    ["250 ms", 0.25],
    ["3 s", 3],
    [".5", 0.5],
    ["2 min", 120]
  ])('"%s" is %f s', (text, seconds) => {
    expect(parseTime(text)).toBeCloseTo(seconds, 9);
  });

  it.each(["", "soon", "1:2:3:4", "1.2.3", "12 parsecs", "--3"])('"%s" is no time', (text) => {
    expect(parseTime(text)).toBeUndefined();
  });

  it("what is shown can be typed again", () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 36_000_000 }), (ms) => {
        expect(parseTime(formatTime(ms / 1000))).toBeCloseTo(ms / 1000, 6);
      })
    );
  });
});
