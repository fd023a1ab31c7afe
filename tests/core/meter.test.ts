// EBU Tech 3341 (2016), table 1, what can be synthesized of cases 9 to 23; levels, clipping, offset, noise floor.
import { describe, expect, it } from "vitest";
import { channelWeights } from "../../src/lib/core/measure/channelWeights";
import { Meter } from "../../src/lib/core/measure/meter";
import { bessel0, kaiserBeta } from "../../src/lib/core/audio/windows";
import { TruePeak } from "../../src/lib/core/measure/truePeak";
import { Buffer } from "../../src/lib/core/kernels/memory";
import { eachBlock, noise, RATE, sine } from "./signals";

/** A 1 kHz sine on both sides in parts of level (dBFS) and length (s), phase running on; -Infinity is silence. */
function parts(list: readonly (readonly [db: number, seconds: number])[]): Float32Array {
  const lengths = list.map(([, s]) => Math.round(s * RATE));
  const out = new Float32Array(lengths.reduce((a, b) => a + b));
  let at = 0;
  list.forEach(([db], i) => {
    for (const end = at + lengths[i]; at < end; at++)
      out[at] = db === -Infinity ? 0 : 10 ** (db / 20) * Math.sin((2 * Math.PI * 1000 * at) / RATE);
  });
  return out;
}

function metered(x: Float32Array, each: (meter: Meter, seconds: number) => void = () => undefined) {
  const meter = new Meter(RATE);
  eachBlock(x, x, 480, (l, r, n, at) => {
    meter.push(l, r, n);
    each(meter, (at + n) / RATE);
  });
  const result = meter.result();
  meter.release();
  return result;
}

const near = (got: number, want: number) => expect(Math.abs(got - want)).toBeLessThanOrEqual(0.1);

describe("EBU Tech 3341, momentary and short-term loudness, ±0.1 LU", () => {
  it("case 9: short-term loudness is -23 LUFS throughout after 3 s", () => {
    const x = parts(
      Array.from(
        { length: 5 },
        () =>
          [
            [-20, 1.34],
            [-30, 1.66]
          ] as const
      ).flat()
    );
    const result = metered(x, (meter, seconds) => {
      if (seconds >= 3) near(meter.live().shortTerm, -23);
    });
    near(result.shortTermMaxLufs, -23);
  });

  it("case 10: the largest short-term loudness of a 3 s tone is -23 LUFS wherever it begins", () => {
    for (let i = 0; i < 20; i++)
      near(
        metered(
          parts([
            [-Infinity, i * 0.15],
            [-23, 3],
            [-Infinity, 1]
          ])
        ).shortTermMaxLufs,
        -23
      );
  });

  it("case 11: it follows tones from -38 to -19 dBFS, each begun at another place", () => {
    const list = Array.from(
      { length: 20 },
      (_, i) =>
        [
          [-Infinity, i * 0.15],
          [-38 + i, 3],
          [-Infinity, 3 - i * 0.15]
        ] as const
    );
    let most = -Infinity;
    let segment = 0;
    metered(parts(list.flat()), (meter, seconds) => {
      most = Math.max(most, meter.live().shortTerm);
      if (seconds < (segment + 1) * 6 - 0.005) return;
      near(most, -38 + segment);
      segment++;
      most = -Infinity;
    });
    expect(segment).toBe(20);
  });

  it("case 12: momentary loudness is -23 LUFS throughout after 1 s", () => {
    const x = parts(
      Array.from(
        { length: 25 },
        () =>
          [
            [-20, 0.18],
            [-30, 0.22]
          ] as const
      ).flat()
    );
    metered(x, (meter, seconds) => {
      if (seconds >= 1) near(meter.live().momentary, -23);
    });
  });

  it("case 13: the largest momentary loudness of a 400 ms tone is -23 LUFS wherever it begins", () => {
    for (let i = 0; i < 20; i++)
      near(
        metered(
          parts([
            [-Infinity, i * 0.02],
            [-23, 0.4],
            [-Infinity, 1]
          ])
        ).momentaryMaxLufs,
        -23
      );
  });

  it("case 14: it follows tones from -38 to -19 dBFS, each begun at another place", () => {
    const list = Array.from(
      { length: 20 },
      (_, i) =>
        [
          [-Infinity, i * 0.02],
          [-38 + i, 0.4],
          [-Infinity, 0.4 - i * 0.02]
        ] as const
    );
    let most = -Infinity;
    let segment = 0;
    metered(parts(list.flat()), (meter, seconds) => {
      most = Math.max(most, meter.live().momentary);
      if (seconds < (segment + 1) * 0.8 - 0.005) return;
      near(most, -38 + segment);
      segment++;
      most = -Infinity;
    });
    expect(segment).toBe(20);
  });
});

describe("EBU Tech 3341, true peak, +0.2/-0.4 dB", () => {
  const peak = (x: Float32Array, want: number) => {
    const { truePeakDbtp } = metered(x);
    expect(truePeakDbtp).toBeLessThanOrEqual(want + 0.2);
    expect(truePeakDbtp).toBeGreaterThanOrEqual(want - 0.4);
  };
  const tone = (divisor: number, degrees: number, amplitude: number) =>
    sine(RATE / divisor, 20 * Math.log10(amplitude), RATE, RATE, (degrees * Math.PI) / 180);

  it.each([
    [15, 4, 0, 0.5, -6],
    [16, 4, 45, 0.5, -6],
    [17, 6, 60, 0.5, -6],
    [18, 8, 67.5, 0.5, -6],
    [19, 4, 45, 1.41, 3]
  ])(
    "case %i: a sine of 1/%i of the rate at %i° and %f of full scale",
    (_, divisor, degrees, amplitude, want) => {
      const x = tone(divisor, degrees, amplitude);
      // Faded in and out: the step at the ends would overshoot.
      x.forEach((v, i) => (x[i] = v * Math.min(1, i / 2000, (x.length - 1 - i) / 2000)));
      peak(x, want);
    }
  );

  // Cases 20 to 23, from memory of the description: a burst made at four times the rate whose crest reaches full scale, brought down
  // to 48 kHz with the crest 0, 1, 2 and 3 quarters of a sample beside the grid.
  it.each([0, 1, 2, 3])(
    "case %i + 20: a crest at full scale, that many quarters of a sample beside the grid",
    (quarter) => {
      const x = new Float32Array(RATE / 2);
      for (let i = 0; i < x.length; i++) {
        const t = i - x.length / 2 + quarter / 4;
        // A sixth of the rate in a wide bell: band-limited by itself, so that sampling it is exact.
        x[i] = Math.exp(-((t / 400) ** 2)) * Math.cos((2 * Math.PI * t) / 6);
      }
      peak(x, 0);
    }
  );
});

describe("levels", () => {
  it("weighs the channels of a 5.1 file by BS.1770: LFE counts nothing, surrounds 1.41", () => {
    const tones = [-28, -28, -24, 0, -30, -30].map((db) => sine(1000, db, RATE * 10));
    const meter = new Meter(RATE, { weights: channelWeights(6) });
    const buffers = tones.map((t) => {
      const b = new Buffer(t.length * 4);
      b.f32.set(t);
      return b;
    });
    meter.pushChannels(
      buffers.map((b) => b.ptr),
      RATE * 10
    );
    // Tech 3341, case 6, with a loud tone in the LFE.
    near(meter.result().integratedLufs, -23);
    for (const b of [...buffers, meter]) b.release();
  });

  it("says what was not measured as an error, not as silence", () => {
    const meter = new Meter(RATE, { peaks: false });
    eachBlock(parts([[-23, 5]]), parts([[-23, 5]]), 480, (l, r, n) => meter.push(l, r, n));
    near(meter.loudness().integratedLufs, -23);
    expect(() => meter.result()).toThrow("it knows loudness alone");
    expect(() => meter.live()).toThrow("it knows loudness alone");
    meter.release();
  });

  it("counts clipped samples in runs of three or more, across blocks", () => {
    const x = noise(RATE, 0.5);
    x.fill(1, 478, 483);
    x.fill(-1, 2000, 2003);
    x.fill(1, 5000, 5002);
    // Mono on both sides: each counts.
    expect(metered(x).clippedSamples).toBe(2 * (5 + 3));
  });

  it("reads offset, crest factor, AES17 RMS and the floor between words", () => {
    const wave = sine(1000, -6, RATE * 4).map((x, i) => (Math.floor(i / RATE) % 2 ? x : x * 0.01) + 0.05);
    const { dcOffset, crestFactorDb, rmsDbfs, rmsAes17Dbfs, samplePeakDbfs } = metered(wave);
    expect(dcOffset).toBeCloseTo(0.05, 4);
    expect(crestFactorDb).toBeCloseTo(samplePeakDbfs - rmsDbfs, 9);
    expect(rmsAes17Dbfs - rmsDbfs).toBeCloseTo(3.01, 2);
    const speech = sine(1000, -6, RATE * 4).map((x, i) => (Math.floor(i / RATE) % 2 ? x : x * 0.01));
    expect(metered(speech).noiseFloorDbfs).toBeCloseTo(-6 - 40 - 3.01, 1);
    const silent = new Float32Array(RATE * 2);
    silent.set(sine(1000, -12, RATE));
    expect(metered(silent).noiseFloorDbfs).toBeCloseTo(-15.01, 1);
  });

  it("reads the true peak of tones up to 0.45 of the rate within 0.03 dB, wherever their samples lie", () => {
    let [least, most] = [Infinity, -Infinity];
    for (const share of [0.01, 0.05, 0.1, 1 / 6, 0.2, 0.25, 0.3, 1 / 3, 0.37, 0.4, 0.45])
      for (let phase = 0; phase < 8; phase++) {
        // Begun and ended softly: a tone that is cut has higher peaks at its ends.
        const wave = sine(share * RATE, -6, 8000, RATE, (phase * Math.PI) / 16).map(
          (x, i) => x * Math.min(1, Math.sin((Math.PI * Math.min(i, 7999 - i)) / 4000) ** 2)
        );
        for (let i = 2000; i < 6000; i++)
          wave[i] = 10 ** (-6 / 20) * Math.sin(2 * Math.PI * share * i + (phase * Math.PI) / 16);
        const error = metered(wave).truePeakDbtp + 6;
        least = Math.min(least, error);
        most = Math.max(most, error);
      }
    expect(least).toBeGreaterThan(-0.03);
    expect(most).toBeLessThan(0.03);
  });

  it("reads the same true peak for blocks of any size, and with what cannot matter left out", () => {
    const wave = noise(20000, 0.3, 9).map((x, i) => x * (0.2 + Math.abs(Math.sin(i / 900))));
    const read = (size: number) => {
      const meter = new Meter(RATE, { annex2: true });
      eachBlock(wave, wave, size, (l, r, n) => meter.push(l, r, n));
      const { truePeakDbtp, truePeakAnnex2Dbtp } = meter.result();
      meter.release();
      return [truePeakDbtp, truePeakAnnex2Dbtp];
    };
    const whole = read(480);
    for (const size of [1, 7, 33, 100, 512, 4096]) expect(read(size)).toEqual(whole);
  });

  it("finds the quiet window of 400 ms wherever it lies, at the end too", () => {
    const level = -46.8;
    for (const begin of [0, 0.537, 0.8815, 0.9999]) {
      const x = sine(1000, -20.6, Math.round(1.4 * RATE));
      const quiet = sine(1000, level + 3.01, Math.round(0.41 * RATE));
      x.set(
        quiet.subarray(0, Math.min(quiet.length, x.length - Math.round(begin * RATE))),
        Math.round(begin * RATE)
      );
      expect(Math.abs(metered(x).noiseFloorDbfs - level)).toBeLessThan(0.1);
    }
  });

  it("has no noise floor of a sound that is shorter than its window", () => {
    expect(metered(sine(1000, -20, Math.round(0.38 * RATE))).noiseFloorDbfs).toBe(-Infinity);
  });

  it("gives loudness over time ten times a second", () => {
    const meter = new Meter(RATE);
    const x = parts([
      [-23, 5],
      [-33, 5]
    ]);
    eachBlock(x, x, 512, (l, r, n) => meter.push(l, r, n));
    const { momentaryLufs, shortTermLufs } = meter.overTime();
    expect(momentaryLufs.length).toBe(97);
    expect(shortTermLufs.length).toBe(71);
    near(momentaryLufs[10], -23);
    near(momentaryLufs[96], -33);
    near(shortTermLufs[70], -33);
    meter.release();
  });
});

describe("true peak alone", () => {
  it("is that of the meter", () => {
    const sounds = [sine(11000, -3, RATE, RATE, 0.7), noise(RATE, 0.4, 5), new Float32Array(RATE)];
    for (const x of sounds) {
      const peak = new TruePeak();
      eachBlock(x, x, 512, (l, r, n) => peak.push(l, r, n));
      expect(peak.dbtp).toBe(metered(x).truePeakDbtp);
      peak.release();
    }
  });

  it("is that of its formula in double precision: sincs of 32 samples in a Kaiser window, four times as many, and a parabola", () => {
    const beta = kaiserBeta(60);
    const tap = (x: number) =>
      Math.abs(x) >= 16
        ? 0
        : ((x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x)) *
            bessel0(beta * Math.sqrt(1 - (x / 16) ** 2))) /
          bessel0(beta);
    const taps = [1, 2, 3].map((p) => Array.from({ length: 32 }, (_, k) => tap(16 - k - p / 4)));
    for (const x of [noise(3000, 0.4, 8), sine(17000, -3, 3000, RATE, 1.1), sine(101, -6, 3000)]) {
      const fine: number[] = [];
      const at = (i: number) => x[i] ?? 0;
      for (let n = 0; n < x.length; n++)
        fine.push(at(n - 16), ...taps.map((h) => h.reduce((sum, c, k) => sum + c * at(n - k), 0)));
      let most = 0;
      for (let i = 1; i + 1 < fine.length; i++) {
        const sign = Math.sign(fine[i]) || 1;
        const [a, b, c] = [fine[i - 1], fine[i], fine[i + 1]].map((v) => v * sign);
        const bend = 2 * b - a - c;
        const top = b >= Math.abs(a) && b >= Math.abs(c) && bend > 0;
        most = Math.max(most, b + (top ? (a - c) ** 2 / (8 * bend) : 0));
      }
      const peak = new TruePeak();
      eachBlock(x, x, 100, (l, r, n) => peak.push(l, r, n));
      expect(peak.dbtp).toBeCloseTo(20 * Math.log10(most), 4);
      peak.release();
    }
  });
});
