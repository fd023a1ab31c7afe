// Hum removal. Sounds: tests/fixtures (recorded speech, guitar, drums), and hum made to a known measure under them.
import { describe, expect, it } from "vitest";
import { responseDb } from "../../src/lib/core/audio/biquadDesign";
import { HumFinder } from "../../src/lib/core/hum/humFinder";
import { humRemoval, humSections } from "../../src/lib/core/effects/humRemoval";
import { completeParams } from "../../src/lib/core/effects/registry";
import { amplitudeAt, dB, pink, rmsOf } from "./analysis";
import { recorded } from "./recorded";
import { eachBlock, noise, RATE, step, throughChain } from "./signals";

function found(left: Float32Array, right = left, rate = RATE): number {
  const finder = new HumFinder(rate, left.length);
  eachBlock(left, right, 512, (l, r, n) => finder.push(l, r, n));
  const hum = finder.finish();
  finder.release();
  return hum?.hertz ?? 0;
}

interface Hum {
  readonly hertz: number;
  /** RMS, dBFS. */
  readonly db: number;
  readonly lines: number;
  /** The frequency swings by this share once in 30 seconds. */
  readonly drift?: number;
  /** Seconds between which it is on; always when left out. */
  readonly on?: readonly [number, number];
}

/** Lines with amplitudes 1, 1/2, 1/3 … and phases of their own. */
function humOf(
  { hertz, db, lines, drift = 0, on = [0, Infinity] }: Hum,
  frames: number,
  rate = RATE
): Float32Array {
  const out = new Float32Array(frames);
  let phase = 0;
  let power = 0;
  for (let k = 1; k <= lines; k++) power += 1 / (2 * k * k);
  const scale = 10 ** (db / 20) / Math.sqrt(power);
  for (let i = 0; i < frames; i++) {
    const t = i / rate;
    phase += (2 * Math.PI * hertz * (1 + drift * Math.sin((2 * Math.PI * t) / 30))) / rate;
    if (t < on[0] || t >= on[1]) continue;
    let sum = 0;
    for (let k = 1; k <= lines; k++) sum += Math.sin(k * phase + 7.3 * k) / k;
    out[i] = sum * scale;
  }
  return out;
}

const plus = (a: Float32Array, b: Float32Array) => a.map((x, i) => x + b[i]);

/** Ratio of a clean sound to what was changed of it, dB. */
function snr(clean: Float32Array, sound: Float32Array, from = 0, to = clean.length): number {
  const difference = sound.map((x, i) => x - clean[i]);
  return dB(rmsOf(clean, from, to) / rmsOf(difference, from, to));
}

/** Recorded names of cards with pauses, again and again to a length. */
function speech(seconds: number, rate = RATE): Float32Array {
  const { left } = recorded("speech-pauses", rate);
  return Float32Array.from({ length: seconds * rate }, (_, i) => left[i % left.length]);
}

function removed(sound: Float32Array, right = sound, rate = RATE): Float32Array {
  return throughChain([step("hum-removal")], sound, right, rate)[0];
}

/** A sum of sines, struck anew every `period` seconds, each decaying to 1/e in its time. */
function tones(
  parts: readonly (readonly [hertz: number, amplitude: number, decay?: number])[],
  seconds: number,
  rate = RATE,
  period = seconds
): Float32Array {
  const out = new Float32Array(seconds * rate);
  for (const [hertz, amplitude, decay = Infinity] of parts)
    for (let i = 0; i < out.length; i++) {
      const t = (i % (period * rate)) / rate;
      out[i] += amplitude * Math.exp(-t / decay) * Math.sin(2 * Math.PI * hertz * t + hertz);
    }
  return out;
}

const harmonics = (hertz: number, amplitude: number, count: number, decay?: number) =>
  Array.from({ length: count }, (_, k) => [(k + 1) * hertz, amplitude / (k + 1), decay] as const);

describe("hum subtracted from speech", () => {
  const clean = speech(16);

  // Rows of the issue: the signal-to-noise ratio before and after.
  it.each<[string, Hum, number]>([
    ["-55 dBFS", { hertz: 49.97, db: -55, lines: 10 }, 45],
    ["-40 dBFS, sixty lines", { hertz: 50.02, db: -40, lines: 60 }, 45],
    ["-45 dBFS at 60 Hz", { hertz: 60.03, db: -45, lines: 12 }, 45],
    ["-50 dBFS, drifting by 0.2 %", { hertz: 50, db: -50, lines: 10, drift: 0.002 }, 40]
  ])("%s: all but gone, in the first second too", (_, what, wanted) => {
    const hum = humOf(what, clean.length);
    const source = plus(clean, hum);
    const out = removed(source);
    expect(snr(clean, out)).toBeGreaterThan(wanted);
    // The first second is as good as the rest: what is left of the hum is as low.
    const rest = out.map((x, i) => x - clean[i]);
    expect(dB(rmsOf(rest, 0, RATE) / rmsOf(rest, RATE))).toBeLessThan(6);
    expect(dB(rmsOf(rest) / rmsOf(hum))).toBeLessThan(-17);
  });

  it("forty lines that drift by 0.2 %: at least 12 dB gained", () => {
    const source = plus(clean, humOf({ hertz: 50, db: -40, lines: 40, drift: 0.002 }, clean.length));
    expect(snr(clean, removed(source)) - snr(clean, source)).toBeGreaterThan(12);
  });

  it("follows hum that comes and goes, and leaves the rest bit for bit", () => {
    const source = plus(clean, humOf({ hertz: 59.98, db: -45, lines: 10, on: [5, 11] }, clean.length));
    const out = removed(source);
    expect(snr(clean, out) - snr(clean, source)).toBeGreaterThan(8);
    expect(out.subarray(0, 4.5 * RATE)).toEqual(source.subarray(0, 4.5 * RATE));
    expect(out.subarray(11.5 * RATE)).toEqual(source.subarray(11.5 * RATE));
  });

  it("is found and taken on one side alone, at another rate, and in stretches of a long recording", () => {
    const long = speech(95, 16000);
    const hum = humOf({ hertz: 50.05, db: -42, lines: 8, drift: 0.001 }, long.length, 16000);
    const source = plus(long, hum);
    const [left, right] = throughChain([step("hum-removal")], source, long, 16000);
    expect(snr(long, left)).toBeGreaterThan(38);
    expect(snr(long, right)).toBeGreaterThan(60);
  });

  it("what is rendered from the middle is the same, sample for sample", () => {
    const source = plus(clean, humOf({ hertz: 50, db: -40, lines: 5 }, clean.length)).subarray(0, 6 * RATE);
    const params = completeParams(humRemoval, {});
    const learner = humRemoval.learn?.(params, RATE, {
      frames: source.length,
      channels: 1,
      spool: () => {
        throw new Error("Nothing is kept.");
      }
    });
    eachBlock(source, source, 512, (l, r, n) => learner?.push(l, r, n));
    const learnt = learner?.finish();
    learner?.release();
    const from = (begin: number, size: number) => {
      const place = { frames: source.length, position: begin, learnt, sound: () => undefined };
      const processor = humRemoval.create(params, RATE, place);
      const out = new Float32Array(source.length - begin);
      const part = source.subarray(begin);
      eachBlock(part, part, size, (l, r, n, at, block) => {
        processor.process(l, r, n);
        out.set(block.left.f32.subarray(0, n), at);
      });
      processor.release();
      return out;
    };
    const whole = from(0, 512);
    expect(whole).not.toEqual(source);
    expect(from(100001, 300)).toEqual(whole.subarray(100001));
  });
});

describe("hum found by itself", () => {
  it.each([44100, 48000, 8000, 96000])("under speech at %i Hz, within 0.015 Hz", (rate) => {
    const clean = speech(7, rate);
    for (const f0 of rate > 48000 ? [50] : [49.6, 50.3, 60.02]) {
      const source = plus(clean, humOf({ hertz: f0, db: -38, lines: 10 }, clean.length, rate));
      expect(Math.abs(found(source, source, rate) - f0), `${f0} Hz`).toBeLessThan(0.015);
    }
  });

  it("a single line is left as it is, since it may be a note: notches take it where one says so", () => {
    const { left, right, sampleRate } = recorded("guitar");
    const line = (x: Float32Array) => amplitudeAt(x, 60, sampleRate, sampleRate, 3 * sampleRate);
    expect(throughChain([step("hum-removal")], left, right, sampleRate)[0]).toEqual(left);
    const notch = { method: "notches", mains: "60", harmonics: 1 };
    const [out] = throughChain([step("hum-removal", notch)], left, right, sampleRate);
    expect(dB(line(out) / line(left))).toBeLessThan(-18);
    expect(Math.abs(dB(rmsOf(out) / rmsOf(left)))).toBeLessThan(0.2);
  });

  it("between silences, as edits leave them: these stay silent but for a period at the edges", () => {
    const hum = tones(harmonics(50, 0.01, 5), 6);
    const edited = new Float32Array(hum.length * 2);
    edited.set(plus(hum, noise(hum.length, 0.001)), hum.length / 2);
    expect(Math.abs(found(edited) - 50)).toBeLessThan(0.01);
    const before = removed(edited).subarray(0, hum.length / 2 - RATE / 10);
    expect(before.every((x) => x === 0)).toBe(true);
  });

  it.each(["speech", "speech-pauses", "guitar"])(
    "none in %s once it is taken out: then bit for bit",
    (name) => {
      const { left, right } = recorded(name, RATE);
      const cut = [step("hum-removal", { method: "notches", mains: "60", harmonics: 30, widthHz: 4 })];
      const [l, r] = throughChain(cut, left, right);
      // What the filter takes at its start to settle is no part of this.
      const [a, b] = [l.subarray(RATE / 2), r.subarray(RATE / 2)];
      expect(throughChain([step("hum-removal")], a, b)).toEqual([a, b]);
    }
  );

  it("none in drums struck twice a second, tuned to mains or a semitone below", () => {
    for (const name of ["drum-snare-hard", "drum-tom-mid-hard", "drum-bass-hard"] as const) {
      const hit = recorded(name, RATE).left;
      const loop = new Float32Array(8 * RATE);
      for (let at = 0; at + hit.length < loop.length; at += RATE / 2)
        loop.set(plus(loop.slice(at, at + hit.length), hit), at);
      expect(found(loop), name).toBe(0);
    }
    for (const hertz of [49, 50, 60, 98, 100])
      for (const decay of [0.08, 0.15, 0.3])
        expect(found(tones(harmonics(hertz, 0.4, 8, decay), 8, RATE, 0.5)), `${hertz} Hz`).toBe(0);
  });

  it("none in notes of the tempered scale held for seconds, nor in one at 50 Hz that dies away", () => {
    for (let note = 24; note < 72; note++) {
      const hertz = 440 * 2 ** ((note - 69) / 12);
      expect(found(tones(harmonics(hertz, 0.1, 10), 3)), `note ${note}`).toBe(0);
    }
    expect(found(tones(harmonics(50, 0.3, 8, 2), 6))).toBe(0);
  });

  it("none in noise, in silence, and in less than half a second", () => {
    const white = noise(8 * RATE, 0.3);
    expect(found(white)).toBe(0);
    expect(found(pink(white, 0.1))).toBe(0);
    expect(found(new Float32Array(4 * RATE))).toBe(0);
    expect(found(tones(harmonics(50, 0.1, 5), 0.5))).toBe(0);
  });

  it("says what was found", () => {
    expect(humRemoval.found?.({ hertz: 59.9861, lines: 12, levelDb: -51.6, share: 1 })).toBe(
      "Hum of 59.99 Hz found: 12 lines, -52 dBFS."
    );
    expect(humRemoval.found?.({ hertz: 50, lines: 3, levelDb: -40, share: 0.38 })).toBe(
      "Hum of 50.00 Hz found: 3 lines, -40 dBFS, there 38 % of the time."
    );
    expect(humRemoval.found?.({ hertz: 0 })).toBe("No hum found: nothing is taken.");
  });
});

describe("notches", () => {
  it("leave all that lies 3 Hz and more beside a line within 0.5 dB", () => {
    const sections = humSections(completeParams(humRemoval, { harmonics: 16 }), 50, RATE);
    for (let hertz = 20; hertz < 20000; hertz += 0.5) {
      const beside = Math.abs(hertz - 50 * Math.min(16, Math.max(1, Math.round(hertz / 50))));
      if (beside >= 3)
        expect(Math.abs(responseDb(sections, (2 * Math.PI * hertz) / RATE)), `${hertz} Hz`).toBeLessThan(0.5);
    }
  });

  it("take the lines of hum down by 40 dB or more", () => {
    const hum = humOf({ hertz: 50, db: -30, lines: 12 }, 7 * RATE);
    const [out] = throughChain([step("hum-removal", { method: "notches", mains: "50" })], hum);
    for (const h of [1, 2, 3, 6, 12]) {
      const level = (x: Float32Array) => amplitudeAt(x, 50 * h, RATE, 2 * RATE, 4 * RATE);
      expect(dB(level(out) / level(hum)), `line ${h}`).toBeLessThan(-40);
    }
  });
});
