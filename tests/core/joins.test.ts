// Where clips meet: what pops, what is alike, where a join is best.
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { bestPlace } from "../../src/lib/core/joins/bestPlace";
import { edgesToCheck, inOrder, JoinCheck, type Pop } from "../../src/lib/core/joins/check";
import { wholeSound, type Stereo } from "../../src/lib/core/joins/clipSound";
import { onsets } from "../../src/lib/core/joins/onsets";
import { periodOf } from "../../src/lib/core/joins/period";
import { correlation } from "../../src/lib/core/joins/similarity";
import { commonCrossing, zeroCrossing } from "../../src/lib/core/joins/zeroCrossing";
import { applyCommand } from "../../src/lib/core/session/commands";
import type { Document } from "../../src/lib/core/session/document";
import { joinsOf, joinsWith, type Join } from "../../src/lib/core/session/joins";
import { lanesOf } from "../../src/lib/core/session/lanes";
import { resolveClip } from "../../src/lib/core/session/lookup";
import { documentOf, newClip, newProject, newTrack } from "../../src/lib/core/session/make";
import type { Clip } from "../../src/lib/core/session/schema";
import { TimelineIndex } from "../../src/lib/core/session/timelineIndex";
import { recorded } from "./recorded";
import { FRAMES, recordingOf } from "./owned";
import { ArraySource, noise, RATE, sine } from "./signals";

const mono = (x: Float32Array): Stereo => ({ left: x, right: x });
const speech = recorded("speech", RATE);
const padded = (x: Float32Array): Float32Array => {
  const out = new Float32Array(FRAMES);
  out.set(x.subarray(0, FRAMES));
  return out;
};
const voice = padded(speech.left.map((x) => x * 0.5));
const room = noise(FRAMES, 0.0008, 9);
const sounds: Record<string, [Float32Array, Float32Array]> = Object.fromEntries(
  Object.entries({
    tone: sine(220, -20, FRAMES),
    hum: sine(50, -12, FRAMES),
    voice: voice.map((x, i) => x + (room[i] ?? 0)),
    room,
    loud: noise(FRAMES, 0.3, 4)
  }).map(([id, x]) => [id, [x, x]])
);
const source = new ArraySource(sounds);
const fade = (ms: number) => ({
  length: Math.round((ms * RATE) / 1000),
  shape: { curve: "straight" as const }
});

function at(
  id: string,
  recordingId: string,
  start: number,
  offset: number,
  length: number,
  change: Partial<Clip> = {}
): Clip {
  const recording = { id: recordingId, name: id, frames: FRAMES };
  return newClip(id, change.track ?? "t", recording, start, { offset, length, ...change });
}

const laid = (...clips: Clip[]) =>
  documentOf(newProject("Joins", RATE), {
    tracks: [newTrack("t", "T", 1), newTrack("u", "U", 2)],
    clips,
    recordings: Object.keys(sounds).map((id) => recordingOf(id))
  });

function check(doc: Document): Pop[] {
  const joins = new JoinCheck(doc, lanesOf(doc, ["t", "u"]), source, RATE);
  try {
    return inOrder(edgesToCheck(doc, RATE).flatMap((edge) => joins.look(edge) ?? []));
  } finally {
    joins.release();
  }
}

const named = (pops: readonly Pop[]) => pops.map(({ clipId, edge, kind }) => `${clipId} ${edge} ${kind}`);

describe("the join check", () => {
  it("finds a jump at a cut through a tone, and none where it is faded", () => {
    const cut = laid(at("a", "tone", 4800, 5050, 20000, { fadeOut: fade(20) }));
    expect(named(check(cut))).toEqual(["a in jump"]);
    const faded = laid(at("a", "tone", 4800, 5050, 20000, { fadeIn: fade(10), fadeOut: fade(10) }));
    expect(check(faded)).toEqual([]);
  });

  it("finds a fade that is shorter than half a period of what sounds there, and mends it with one that is not", () => {
    const doc = laid(at("a", "hum", 4800, 9840, 40000, { fadeIn: fade(0.3), fadeOut: fade(20) }));
    const [pop] = check(doc);
    expect(named(check(doc))).toEqual(["a in shortFade"]);
    expect(pop?.mend).toBe(480);
    const hum = wholeSound(resolveClip(doc, at("a", "hum", 0, 0, 9000)), source, RATE, 0, 4096);
    expect(Math.abs(periodOf(hum, 0, 4096, RATE) / 960 - 1)).toBeLessThan(0.1);
  });

  it("is silent about two parts of one recording that meet as they were, and finds where some of it is missing", () => {
    const whole = laid(
      at("a", "tone", 4800, 5050, 20000, { fadeIn: fade(10) }),
      at("b", "tone", 24800, 25050, 9000, { fadeOut: fade(10) })
    );
    expect(check(whole)).toEqual([]);
    const missing = laid(
      at("a", "tone", 4800, 5050, 20000, { fadeIn: fade(10) }),
      at("b", "tone", 24800, 25150, 9000, { fadeOut: fade(10) })
    );
    expect(named(check(missing))).toHaveLength(1);
  });

  it("is silent about cuts in room tone, and about those that louder sound on another track covers", () => {
    expect(check(laid(at("a", "room", 4800, 50, 20000)))).toEqual([]);
    const covered = laid(
      at("a", "tone", 9600, 5050, 9600),
      at("b", "loud", 0, 0, 60000, { track: "u", fadeIn: fade(20), fadeOut: fade(20) })
    );
    expect(check(covered)).toEqual([]);
  });

  it("finds cuts into the beginnings of words, and calls most of them that", () => {
    const begun = onsets(mono(sounds.voice?.[0] ?? room), RATE).filter(({ from }) => from > 6000);
    expect(begun.length).toBeGreaterThan(5);
    const clips = begun.map(({ from, to }, i) =>
      at(`w${i}`, "voice", 20000 * i, Math.max(0, from - 15000), Math.min(15000, from) + to - from - 60, {
        fadeIn: fade(20)
      })
    );
    const pops = named(check(laid(...clips)));
    expect(pops.length).toBeGreaterThan(begun.length / 2);
    expect(pops.filter((name) => name.endsWith("onset")).length).toBeGreaterThan(pops.length / 2);
  });

  it("orders what it finds by how loud it pops", () => {
    const doc = laid(
      at("a", "tone", 4800, 5050, 9000, { gainDb: -20, fadeOut: fade(20) }),
      at("b", "tone", 40000, 5050, 9000, { gainDb: 6, fadeOut: fade(20) }),
      at("c", "tone", 80000, 5050, 9000, { gainDb: -6, fadeOut: fade(20) })
    );
    expect(check(doc).map((pop) => pop.clipId)).toEqual(["b", "c", "a"]);
  });

  it("finds nothing in speech that is cut anywhere and faded by 10 ms, and every mend that it offers mends", () => {
    const clips = Array.from({ length: 12 }, (_, i) =>
      at(`c${i}`, "voice", i * 20000, 9000 + i * 8111, 15000, { fadeIn: fade(10), fadeOut: fade(10) })
    );
    expect(named(check(laid(...clips)))).toEqual([]);
    let doc = laid(...clips.map((clip) => ({ ...clip, fadeIn: fade(0), fadeOut: fade(0) })));
    const pops = check(doc);
    expect(pops.length).toBeGreaterThan(5);
    for (const { clipId, edge, mend } of pops) {
      const mended = { length: mend, shape: { curve: "smooth" as const } };
      doc = applyCommand(doc, { type: "clip.fade", clipIds: [clipId], edge, fade: mended }).document;
    }
    expect(check(doc).length).toBeLessThanOrEqual(pops.length / 8);
  });
});

describe("how alike two sounds are", () => {
  it("is 1 of the same, -1 of one turned over, ρ of a mixture, 0 of strangers and of silence", () => {
    const [one, other] = [noise(48000, 0.3, 1), noise(48000, 0.3, 2)];
    const mixture = one.map((x, i) => 0.6 * x + 0.8 * (other[i] ?? 0));
    expect(correlation(mono(one), mono(one))).toBeCloseTo(1, 12);
    expect(correlation(mono(one), mono(one.map((x) => -0.5 * x)))).toBeCloseTo(-1, 6);
    expect(correlation(mono(one), mono(mixture))).toBeCloseTo(0.6, 1);
    expect(Math.abs(correlation(mono(one), mono(other)))).toBeLessThan(0.02);
    expect(correlation(mono(one), mono(new Float32Array(48000)))).toBe(0);
  });

  it("is found of clips beyond their ends, with what their recordings have there", () => {
    const doc = laid(at("a", "tone", 0, 0, 10000), at("b", "tone", 10000, 10000, 9000));
    const sound = (id: string) =>
      wholeSound(resolveClip(doc, doc.get("clips", id) as Clip), source, RATE, 9000, 11000);
    expect(correlation(sound("a"), sound("b"))).toBeCloseTo(1, 9);
  });
});

describe("the best place for a join", () => {
  const quiet = noise(24000, 0.2, 5);
  for (let i = 12000; i < 14000; i++) quiet[i] *= 0.01;
  const other = noise(24000, 0.2, 6);
  for (let i = 11000; i < 14500; i++) other[i] *= 0.01;

  it("is where both are quiet, within reach only", () => {
    const found = bestPlace(mono(quiet), mono(other), RATE, 10000, 480, 4000);
    expect(10000 + (found?.by ?? 0)).toBeGreaterThan(12000 + 200);
    expect(10000 + (found?.by ?? 0)).toBeLessThan(14000 - 200);
    const near = bestPlace(mono(quiet), mono(other), RATE, 10000, 480, 900);
    expect(Math.abs(near?.by ?? 9999)).toBeLessThanOrEqual(900);
  });

  it("is where the waveforms match: of two tones a period apart", () => {
    const [a, b] = [sine(200, -20, 24000), sine(206, -20, 24000)];
    const found = bestPlace(mono(a), mono(b), RATE, 8000, 240, 6000);
    // A beat of 6 Hz: in step every 8000 frames.
    expect(found?.correlation).toBeGreaterThan(0.99);
    expect(
      Math.min((8000 + (found?.by ?? 0)) % 8000, 8000 - ((8000 + (found?.by ?? 0)) % 8000))
    ).toBeLessThan(400);
  });

  it("is never over the beginning of a word", () => {
    const x = sounds.voice?.[0].subarray(0, 96000) ?? room;
    const begun = onsets(mono(x), RATE);
    expect(begun.length).toBeGreaterThan(3);
    for (const middle of [20000, 30000, 41000, 52000, 63000]) {
      const found = bestPlace(mono(x), mono(x.map((v) => v * 0.9)), RATE, middle, 480, 6000);
      if (!found) continue;
      const place = middle + found.by;
      expect(begun.every(({ from, to }) => place + 240 <= from || place - 240 >= to)).toBe(true);
    }
  });
});

describe("zero crossings", () => {
  it("are where the sign changes, the nearest first, in both where two are asked for", () => {
    const a = mono(sine(100, -6, 4800));
    const b = mono(sine(150, -6, 4800));
    expect(Math.abs((zeroCrossing(a, 250, 200) ?? 0) - 240)).toBeLessThanOrEqual(1);
    expect(zeroCrossing(a, 400, 50)).toBeUndefined();
    const both = commonCrossing(a, b, 700, 600, 1) ?? 0;
    expect(both % 480).toBeLessThanOrEqual(1);
    expect(Math.abs((a.left[both] ?? 1) + (a.left[both - 1] ?? 1))).toBeLessThan(0.02);
  });
});

describe("the joins of many clips", () => {
  it("are those of each of them, each once", () => {
    const clips = fc.array(
      fc.record({
        track: fc.constantFrom("t", "u"),
        start: fc.nat(40),
        length: fc.integer({ min: 1, max: 12 })
      }),
      { maxLength: 14 }
    );
    const nameOf = ({ left, right, overlap }: Join) => `${left.id} ${right.id} ${overlap}`;
    fc.assert(
      fc.property(clips, fc.nat(), (list, chosen) => {
        const all = list.map(({ track, start, length }, i) =>
          newClip(`c${i}`, track, { id: "r", name: "r", frames: 100 }, start, { length })
        );
        const some = all.filter((_, i) => (chosen >> i) & 1);
        const lanes = new TimelineIndex(all);
        const each = some.flatMap((clip) => joinsWith(lanes, clip));
        expect(joinsOf(lanes, some).map(nameOf).sort()).toEqual([...new Set(each.map(nameOf))].sort());
      })
    );
  });
});
