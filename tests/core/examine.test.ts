// Faults made in recorded sound, each found as what it is; and sound without them.
import { describe, expect, it } from "vitest";
import { Examiner } from "../../src/lib/core/measure/examine";
import type { Finding } from "../../src/lib/core/measure/examine/finding";
import { ReverberationLook } from "../../src/lib/core/measure/examine/reverberation";
import { rmsOf } from "./analysis";
import { recorded } from "./recorded";
import { eachBlock, noise, RATE, step, throughChain } from "./signals";

function examined(left: Float32Array, right = left, channels: 1 | 2 = right === left ? 1 : 2): Finding[] {
  const examiner = new Examiner(RATE, left.length, channels);
  eachBlock(left, right, 512, (l, r, n) => examiner.push(l, r, n));
  const findings = examiner.finish();
  examiner.release();
  return findings;
}

const kinds = (findings: readonly Finding[]) => findings.map(({ kind }) => kind).sort();

/** A read sentence, with the level of dialogue; it was recorded with an offset of its own, which is taken. */
const sentence = (() => {
  const { left: raw } = recorded("speech", RATE);
  const [left] = throughChain([step("dc-removal")], raw);
  const scale = 0.09 / rmsOf(left);
  return left.map((x) => x * scale);
})();

const found = (findings: readonly Finding[], kind: Finding["kind"]) => {
  const finding = findings.find((f) => f.kind === kind);
  if (!finding) throw new Error(`There is no ${kind} among ${kinds(findings).join(", ")}.`);
  return finding;
};

const clipped = sentence.map((x) => Math.max(-0.25, Math.min(0.25, x)));
const quiet = sentence.map((x) => x * 0.01);
/** Struck by a breath at 2.2 s. */
const popped = sentence.map((x, i) => {
  const t = (i - 2.2 * RATE) / RATE;
  return t < 0 ? x : x + 0.5 * Math.min(1, t / 0.005) * Math.exp(-t / 0.04) * Math.sin(2 * Math.PI * 30 * t);
});

describe("examining speech", () => {
  // Its own band ends at 8 kHz, being recorded at 16 kHz.
  const own = kinds(examined(sentence)).filter((kind) => kind !== "band-limit");

  it("finds nothing in a clean sentence but where its band ends", () => {
    expect(own).toEqual([]);
  });

  it.each<[Finding["kind"], () => Float32Array]>([
    ["low", () => quiet],
    ["clipped", () => clipped],
    ["offset", () => sentence.map((x) => x + 0.01)],
    [
      "hum",
      () =>
        sentence.map((x, i) =>
          [1, 2, 3, 5].reduce((y, k) => y + (0.008 / k) * Math.sin((2 * Math.PI * 50 * k * i) / RATE), x)
        )
    ],
    ["noise", () => sentence.map((x, i) => x + hiss[i])],
    ["clicks", () => sentence.map((x, i) => x + (i % 28000 === 9000 ? 0.3 : 0))],
    ["plosives", () => popped]
  ])("finds %s where it was made, and that alone", (kind, make) => {
    const findings = examined(make());
    expect(kinds(findings).filter((k) => k !== "band-limit")).toEqual([kind]);
  });

  it.each(["speech", "speech-pauses"])("takes pulses and bursts of a voice for no clicks: %s", (name) => {
    const voice = recorded(name, RATE).left;
    expect(kinds(examined(voice))).not.toContain("clicks");
    // Those that are made in it, of one to five samples, are found, on whichever side.
    const struck = voice.map((x, i) => x + (i % 32000 < 1 + (Math.floor(i / 32000) % 5) ? 0.3 : 0));
    const right = found(examined(voice, struck), "clicks");
    // 90 a minute were made; two pulses of the voice in four seconds may come along.
    expect(right.value).toBeGreaterThan(55);
    expect(right.value).toBeLessThan(125);
    expect(found(examined(struck, voice), "clicks").value).toBe(right.value);
    expect(found(examined(struck), "clicks").value).toBe(right.value);
  });

  it("says how much, and what mends it", () => {
    const low = found(examined(quiet), "low");
    expect(low.step?.effect).toBe("gain");
    const [louder] = throughChain([step("gain", low.step?.params ?? {})], quiet);
    expect(examined(louder).filter(({ kind }) => kind === "low")).toEqual([]);
    const tops = found(examined(clipped), "clipped");
    expect(tops.step).toEqual({ effect: "declip", params: {} });
    const share = sentence.reduce((n, x) => n + Number(Math.abs(x) >= 0.25), 0) / sentence.length;
    expect(tops.value / 100).toBeGreaterThan(share * 0.6);
    expect(tops.value / 100).toBeLessThan(share * 1.1);
    expect(tops.places.length).toBeGreaterThan(3);
    const noisy = found(examined(sentence.map((x, i) => x + hiss[i])), "noise");
    expect(Math.abs(noisy.value - 20 * Math.log10(rmsOf(hiss)))).toBeLessThan(3.5);
    const pop = found(examined(popped), "plosives");
    expect(pop.certainty).toBe("possible");
    expect(Math.abs(pop.places[0].from - 2.2)).toBeLessThan(0.1);
  });

  it("tells the level of noise without the hum that lies in it", () => {
    const level = 20 * Math.log10(rmsOf(hiss));
    for (const over of [-6, 0, 4, 16]) {
      // Three lines of 100 Hz and up, so much stronger than the hiss together.
      const line = (10 ** ((level + over) / 20) * Math.SQRT2) / Math.sqrt(3);
      const both = sentence.map(
        (x, i) =>
          x +
          hiss[i] +
          [2, 4, 6].reduce((y, k) => y + line * Math.sin((2 * Math.PI * 50 * k * i) / RATE + k), 0)
      );
      const findings = examined(both);
      expect(Math.abs(found(findings, "hum").value - level - over)).toBeLessThan(0.5);
      if (over > 10) expect(kinds(findings)).not.toContain("noise");
      else expect(Math.abs(found(findings, "noise").value - level)).toBeLessThan(2);
    }
  });

  it("finds sharp s where what lies above 4 kHz was raised", () => {
    const { left } = recorded("speech-pauses", RATE);
    let [low, high] = [0, 0];
    const sharp = left.map((x) => {
      low += (x - low) * 0.45;
      high += (x - low - high) * 0.45;
      return x + 12 * (x - low - high);
    });
    expect(kinds(examined(left))).not.toContain("sibilance");
    const { value, step: mends } = found(examined(sharp), "sibilance");
    expect(value).toBeGreaterThan(18);
    expect(mends?.effect).toBe("de-esser");
  });
});

describe("examining rooms", () => {
  const voices = ["speech", "speech-pauses"].flatMap((name) =>
    [0.8, 1, 1.25].map((speed) => recorded(name, Math.round(RATE / speed)).left.slice(0, 6 * RATE))
  );
  /** Voice and as strong a tail of decaying noise; a second of it after the end. */
  function inRoom(voice: Float32Array, t60: number): Float32Array {
    const tail = noise(Math.round(t60 * RATE), 1, 71).map((x, i) => x * 10 ** ((-3 * i) / RATE / t60));
    const sound = new Float32Array(voice.length + RATE);
    sound.set(voice);
    const params = { impulse: "room", mixPercent: 50 };
    const sounds = { room: { left: tail, right: tail } };
    return throughChain([step("convolution", params)], sound, sound, RATE, 512, sounds)[0];
  }
  function estimate(sound: Float32Array): number {
    const look = new ReverberationLook(RATE);
    eachBlock(sound, sound, 512, (l, r, n) => look.push(l, r, n));
    const seconds = look.estimate();
    look.release();
    return seconds ?? NaN;
  }

  it.each([0.4, 0.6, 0.8, 1.2])("tells a T60 of %f s within a quarter", (t60) => {
    const told = voices.map((voice) => estimate(inRoom(voice, t60)));
    const right = told.filter((seconds) => Math.abs(seconds / t60 - 1) < 0.25);
    expect(right.length, told.join(", ")).toBeGreaterThanOrEqual(5);
  });

  it("finds a room that rings for 1.2 s, and none where there is no room", () => {
    const long = voices.map((voice) => kinds(examined(inRoom(voice, 1.2))));
    expect(long.filter((all) => all.includes("reverberation")).length).toBeGreaterThanOrEqual(5);
    // Too little falls freely to tell, or it falls fast.
    const dry = voices.map(estimate).filter((seconds) => seconds > 0.75);
    expect(dry).toEqual([]);
  });
});

const hiss = noise(sentence.length, 0.03, 5);

describe("examining two sides", () => {
  const { left, right } = recorded("guitar", RATE);

  it("finds a dead and an inverted side, and says which step mends it", () => {
    const dead = found(examined(left, new Float32Array(left.length)), "dead-side");
    expect(dead.step).toEqual({ effect: "channels", params: { mode: "left" } });
    const inverted = examined(
      left,
      left.map((x) => -x)
    );
    const { step: mends } = found(inverted, "inverted");
    const [l, r] = throughChain(
      [step(mends?.effect ?? "", mends?.params)],
      left,
      left.map((x) => -x)
    );
    expect(kinds(examined(l, r, 2))).not.toContain("inverted");
  });

  it("finds sides that cancel in mono", () => {
    const other = left.map((x, i) => -0.8 * x + 0.3 * (right[(i + 4000) % right.length] ?? 0));
    expect(kinds(examined(left, other)).some((kind) => kind === "cancels" || kind === "inverted")).toBe(true);
  });

  it("finds none of that in music as it was recorded, nor anything in silence", () => {
    expect(kinds(examined(left, right)).filter((k) => k !== "band-limit")).toEqual([]);
    expect(examined(new Float32Array(2 * RATE))).toEqual([]);
  });
});
