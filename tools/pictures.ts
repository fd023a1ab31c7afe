// A picture of what each effect does, drawn from its output.
import { StereoBlock } from "../src/lib/core/audio/block";
import { Chain } from "../src/lib/core/effects/chain";
import type { EffectDescription, Params } from "../src/lib/core/effects/description";
import { learnAll } from "../src/lib/core/effects/learning";
import { kernels } from "../src/lib/core/kernels/instance";
import { noise, RATE, sine, speechLike, type Signal } from "./signals";

type Kind = "response" | "transfer" | "wave" | "decay";

interface Plan {
  readonly kind: Kind;
  readonly params: Params;
  readonly caption: string;
  /** For waves and decays: what goes in. */
  readonly signal?: () => Signal;
}

const click = (): Signal => {
  const x = new Float32Array(RATE);
  x[480] = 0.9;
  return x;
};
const words = () => speechLike(2);
/** A burst of breath: one swing of about 30 Hz that dies away. */
const popAt = (i: number) => (i < 0 ? 0 : Math.sin((i / RATE) * 190) * Math.exp(-i / RATE / 0.03));

const plans: Readonly<Record<string, Plan>> = {
  gain: {
    kind: "wave",
    params: { gainDb: 9 },
    caption: "Before and after +9 dB",
    signal: () => words().map((x) => x * 0.3)
  },
  "parametric-eq": {
    kind: "response",
    params: {
      on1: true,
      type1: "highPass",
      freq1: 80,
      slope1: "24",
      on2: true,
      freq2: 300,
      gain2: -8,
      q2: 1.5,
      on3: true,
      freq3: 3000,
      gain3: 6,
      on4: true,
      type4: "highShelf",
      freq4: 9000,
      gain4: -6
    },
    caption: "Gain over frequency: a high-pass, a cut, a boost and a shelf"
  },
  tone: {
    kind: "response",
    params: { bassDb: 9, trebleDb: -9 },
    caption: "Gain over frequency: bass +9 dB, treble -9 dB"
  },
  compressor: {
    kind: "transfer",
    params: { thresholdDb: -30, ratio: 4, kneeDb: 10 },
    caption: "Level out over level in: threshold -30 dB, 4:1, knee 10 dB"
  },
  limiter: {
    kind: "transfer",
    params: { gainDb: 12, ceilingDb: -3 },
    caption: "Level out over level in: gain 12 dB, ceiling -3 dB"
  },
  expander: {
    kind: "transfer",
    params: { thresholdDb: -36, ratio: 3, rangeDb: 40 },
    caption: "Level out over level in: threshold -36 dB, 1:3"
  },
  gate: {
    kind: "transfer",
    params: { thresholdDb: -36, rangeDb: 40 },
    caption: "Level out over level in: opens at -36 dB, range 40 dB"
  },
  "de-esser": {
    kind: "wave",
    params: { thresholdDb: -50, amountDb: 14, ratio: 20 },
    caption: "A vowel, a sharp s, a vowel: the s comes out smaller",
    signal: () => {
      const x = sine(200, 0.35, 1.5);
      // Noise an octave wide around 7 kHz: slow noise on a carrier.
      const slow = noise(0.4, 1.6);
      for (let i = 12; i < slow.length; i++) {
        let mean = 0;
        for (let k = 0; k < 12; k++) mean += slow[i - k] / 12;
        x[Math.round(0.55 * RATE) + i] = mean * Math.sin((2 * Math.PI * 7000 * i) / RATE);
      }
      return x;
    }
  },
  "transient-shaper": {
    kind: "wave",
    params: { attackDb: 9, sustainDb: -9 },
    caption: "Three drum hits: the beginnings stand out, what rings on is shorter",
    signal: () => sine(160, 0.4, 1.5).map((x, i) => x * Math.exp(-(i % 24000) / 4500))
  },
  "noise-reduction": {
    kind: "wave",
    params: { reductionDb: 24 },
    caption: "Words in noise: the noise between them is gone",
    signal: () => words().map((x, i) => (i < 0.7 * RATE ? 0 : x) + noise(2, 0.08)[i])
  },
  "hum-removal": {
    kind: "response",
    params: { method: "notches", mains: "50", harmonics: 6, widthHz: 4 },
    caption: "Gain over frequency by notches: 50 Hz and five harmonics"
  },
  "click-repair": {
    kind: "wave",
    params: {},
    caption: "Three clicks on a voice, and the voice without them",
    signal: () => {
      const x = words().map((v) => v * 0.6);
      for (const at of [20000, 48000, 71000]) x[at] += 0.9;
      return x;
    }
  },
  reverb: {
    kind: "decay",
    params: { decayS: 1.2, mixPercent: 100, preDelayMs: 20 },
    caption: "Level over time after a click: 60 dB in 1.2 s",
    signal: click
  },
  convolution: {
    kind: "decay",
    params: { mixPercent: 100 },
    caption: "Level over time after a click, with the built-in response",
    signal: click
  },
  delay: {
    kind: "wave",
    params: { timeMs: 180, feedbackPercent: 60, mixPercent: 50, dampingHz: 3000 },
    caption: "A click and its echoes, 180 ms apart",
    signal: click
  },
  chorus: {
    kind: "wave",
    params: { voices: 4, rateHz: 3, depthMs: 5, mixPercent: 60 },
    caption: "A steady tone beats when drifting voices join it",
    signal: () => sine(440, 0.5, 1)
  },
  flanger: {
    kind: "response",
    params: { depthMs: 0, delayMs: 1, feedbackPercent: 30 },
    caption: "Gain over frequency at one moment of the sweep: a comb"
  },
  channels: {
    kind: "wave",
    params: { mode: "mono" },
    caption: "Left of a one-sided sound, folded to mono: half on both sides",
    signal: words
  },
  polarity: {
    kind: "wave",
    params: {},
    caption: "A one-sided wave, turned over",
    signal: () => sine(3, 0.8, 1).map((x) => Math.max(-0.2, x))
  },
  "dc-removal": {
    kind: "wave",
    params: {},
    caption: "An offset of a quarter of full scale, gone",
    signal: () => words().map((x) => x * 0.5 + 0.25)
  },
  "plosive-removal": {
    kind: "wave",
    params: {},
    caption: "Words with two pops of breath, and without them",
    signal: () =>
      speechLike(4).map((x, i) => x * 0.6 + 0.8 * popAt(i - 0.6 * RATE) + 0.7 * popAt(i - 2.8 * RATE))
  },
  declip: {
    kind: "wave",
    params: {},
    caption: "Two tones whose tops were cut off, and with tops made anew",
    signal: () => {
      const other = sine(329.6, 0.4, 0.08);
      return sine(220, 0.4, 0.08).map((x, i) => Math.max(-0.5, Math.min(0.5, x + other[i])));
    }
  },
  leveller: {
    kind: "wave",
    params: { seconds: 0.4 },
    caption: "Words that get quieter, ridden towards their mean",
    signal: () => speechLike(6).map((x, i) => x * 0.8 * 10 ** (-(i / RATE) / 6))
  },
  normalize: {
    kind: "wave",
    params: { target: "peak", levelDb: -1 },
    caption: "Brought to a peak of -1 dB",
    signal: () => words().map((x) => x * 0.35)
  },
  fade: {
    kind: "wave",
    params: { inS: 0.4, inCurve: "sShaped", outS: 0.8, outCurve: "equalPower" },
    caption: "An S-shaped fade in and an equal-power fade out",
    signal: () => sine(300, 0.8, 2)
  },
  silence: { kind: "wave", params: { fromS: 0.7, toS: 1.2 }, caption: "Half a second muted", signal: words },
  reverse: {
    kind: "wave",
    params: {},
    caption: "Backwards",
    signal: () => words().map((x, i) => x * (1 - i / (2 * RATE)))
  }
};

function planOf(effect: EffectDescription): Plan {
  const plan = plans[effect.id];
  if (!plan) throw new Error(`tools/pictures.ts has no picture of ${effect.id}.`);
  return plan;
}

export function captionOf(effect: EffectDescription): string {
  return planOf(effect).caption;
}

/** What an effect makes of a signal on the left side (and on the right, but for "channels"). */
function through(effect: EffectDescription, params: Params, left: Signal): Signal {
  const right = effect.id === "channels" ? new Float32Array(left.length) : left;
  const steps = [{ effect: effect.id, on: true, params }];
  const put = (from: number, n: number, l: number, r: number) => {
    const memory = kernels.memory.buffer;
    const take = (x: Signal) => Float32Array.from({ length: n }, (_, i) => x[from + i] ?? 0);
    new Float32Array(memory, l, n).set(take(left));
    new Float32Array(memory, r, n).set(take(right));
  };
  const sound = () => undefined;
  const open = (from: number) => {
    let at = from;
    return {
      read(l: number, r: number, n: number) {
        put(at, n, l, r);
        at += n;
      },
      needed: () => [],
      release: () => undefined
    };
  };
  const learnt = learnAll({ steps, sampleRate: RATE, frames: left.length, open, sound });
  const chain = new Chain(steps, RATE, { frames: left.length, position: 0, learnt, sound });
  const { latency } = chain.timing;
  const block = new StereoBlock();
  const out = new Float32Array(left.length + latency);
  for (let at = 0; at < out.length; at += block.frames) {
    const n = Math.min(block.frames, out.length - at);
    put(at, n, block.left.ptr, block.right.ptr);
    chain.process(block.left.ptr, block.right.ptr, n);
    out.set(block.left.f32.subarray(0, n), at);
  }
  chain.release();
  block.release();
  return out.subarray(latency);
}

const W = 640;
const H = 200;
const INK = "#1F2430";
const SLATE = "#51637D";
const MADDER = "#A8432D";
const RULE = "#DAD6CC";

function svg(body: string): string {
  const style = `font: 11px sans-serif; fill: ${INK}`;
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${W} ${H}" width="${W}" height="${H}" style="${style}"><rect width="${W}" height="${H}" fill="#F6F4EF"/>${body}</svg>\n`;
}

const path = (points: readonly (readonly [number, number])[], colour: string) =>
  `<path fill="none" stroke="${colour}" stroke-width="1.5" d="M${points.map(([x, y]) => `${x.toFixed(1)} ${y.toFixed(1)}`).join("L")}"/>`;
const rule = (x1: number, y1: number, x2: number, y2: number) =>
  `<path stroke="${RULE}" d="M${x1} ${y1}L${x2} ${y2}"/>`;
const label = (x: number, y: number, text: string, anchor = "start") =>
  `<text x="${x}" y="${y}" text-anchor="${anchor}">${text}</text>`;

/** The outline of a waveform between two heights. */
function outline(x: Signal, top: number, colour: string): string {
  const middle = top + 44;
  const columns = W - 80;
  let d = "";
  for (let c = 0; c < columns; c++) {
    const from = Math.floor((c * x.length) / columns);
    const to = Math.max(from + 1, Math.floor(((c + 1) * x.length) / columns));
    let low = 0;
    let high = 0;
    for (let i = from; i < to; i++) {
      low = Math.min(low, x[i]);
      high = Math.max(high, x[i]);
    }
    d += `M${70 + c} ${(middle - Math.min(1, high) * 42).toFixed(1)}V${(middle + Math.min(1, -low) * 42 + 0.5).toFixed(1)}`;
  }
  return `${rule(70, middle, W - 10, middle)}<path stroke="${colour}" d="${d}"/>`;
}

function wave(effect: EffectDescription, plan: Plan): string {
  const input = plan.signal?.() ?? words();
  const output = through(effect, plan.params, input);
  return svg(
    `${label(10, 56, "before")}${outline(input, 8, SLATE)}${label(10, 156, "after")}${outline(output, 106, MADDER)}`
  );
}

function response(effect: EffectDescription, plan: Plan): string {
  const impulse = new Float32Array(1 << 16);
  impulse[100] = 1;
  const h = through(effect, plan.params, impulse);
  const x = (hertz: number) => 40 + ((W - 60) * Math.log(hertz / 20)) / Math.log(1000);
  const y = (db: number) => 90 - db * 3.2;
  const grid = [20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 20000].map(
    (f) => rule(x(f), 10, x(f), 175) + label(x(f), 190, f >= 1000 ? `${f / 1000}k` : String(f), "middle")
  );
  const levels = [-24, -12, 0, 12, 24].map(
    (db) => rule(40, y(db), W - 20, y(db)) + label(34, y(db) + 4, String(db), "end")
  );
  const points = Array.from({ length: 500 }, (_, i): [number, number] => {
    const hertz = 20 * 1000 ** (i / 499);
    let re = 0;
    let im = 0;
    for (let n = 0; n < h.length; n++) {
      if (h[n] === 0) continue;
      re += h[n] * Math.cos((2 * Math.PI * hertz * n) / RATE);
      im -= h[n] * Math.sin((2 * Math.PI * hertz * n) / RATE);
    }
    const db = 20 * Math.log10(Math.max(1e-4, Math.hypot(re, im)));
    return [x(hertz), y(Math.max(-26, Math.min(25, db)))];
  });
  return svg(grid.join("") + levels.join("") + path(points, MADDER));
}

function transfer(effect: EffectDescription, plan: Plan): string {
  const x = (db: number) => 220 + (db + 72) * 3.6;
  const y = (db: number) => 10 - db * 2.2;
  const grid = [-72, -48, -24, 0].map(
    (db) =>
      rule(x(db), y(0), x(db), y(-75)) +
      label(x(db), 190, String(db), "middle") +
      rule(x(-72), y(db), x(0), y(db)) +
      label(x(-72) - 6, y(db) + 4, String(db), "end")
  );
  const points = Array.from({ length: 49 }, (_, i): [number, number] => {
    const level = -72 + i * 1.5;
    const out = through(effect, plan.params, sine(1000, 10 ** (level / 20), 0.8));
    const peak = out.subarray(RATE * 0.6).reduce((a, v) => Math.max(a, Math.abs(v)), 0);
    return [x(level), y(Math.max(-75, 20 * Math.log10(peak)))];
  });
  return svg(
    `${grid.join("")}${path(
      [
        [x(-72), y(-72)],
        [x(0), y(0)]
      ],
      RULE
    )}${path(points, MADDER)}`
  );
}

function decay(effect: EffectDescription, plan: Plan): string {
  const input = new Float32Array(2 * RATE);
  input.set(plan.signal?.() ?? click());
  const out = through(effect, plan.params, input);
  const top = out.reduce((a, v) => Math.max(a, Math.abs(v)), 0);
  const x = (s: number) => 40 + s * 290;
  const y = (db: number) => 15 - db * 2.2;
  const grid = [0, -20, -40, -60].map(
    (db) => rule(40, y(db), W - 20, y(db)) + label(34, y(db) + 4, String(db), "end")
  );
  const times = [0, 0.5, 1, 1.5, 2].map(
    (s) => rule(x(s), 10, x(s), 175) + label(x(s), 190, `${s} s`, "middle")
  );
  const points = Array.from({ length: 400 }, (_, i): [number, number] => {
    const from = Math.round((i * out.length) / 400);
    let sum = 0;
    for (let k = from; k < from + 240; k++) sum += (out[k] ?? 0) ** 2;
    const db = 10 * Math.log10(sum / 240 / top ** 2 + 1e-9) + 9;
    return [x((i * 2) / 400), y(Math.max(-73, Math.min(0, db)))];
  });
  return svg(grid.join("") + times.join("") + path(points, MADDER));
}

const draw: Record<Kind, (effect: EffectDescription, plan: Plan) => string> = {
  wave,
  response,
  transfer,
  decay
};

/** An SVG of what an effect does. */
export function pictureOf(effect: EffectDescription): string {
  const plan = planOf(effect);
  return draw[plan.kind](effect, plan);
}
