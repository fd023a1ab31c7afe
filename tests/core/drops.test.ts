// Laying clips out: the rules of dropping, cuts and joins, by what they promise.
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { applyCommand, type Command } from "../../src/lib/core/session/commands";
import type { Document } from "../../src/lib/core/session/document";
import { drop, type DropRule } from "../../src/lib/core/session/drop";
import { isCrossfade, joinsIn } from "../../src/lib/core/session/joins";
import { endOf, lanesOf } from "../../src/lib/core/session/lanes";
import { documentOf, newClip, newProject, newStep, newTrack } from "../../src/lib/core/session/make";
import { CommandRefused } from "../../src/lib/core/session/refused";
import type { Clip } from "../../src/lib/core/session/schema";
import { FRAMES, recordingOf } from "./owned";
import { mixed, noise, RATE, ArraySource } from "./signals";

const recordings = ["a", "b"].map((id) => recordingOf(id));
const track = (id: string, order: number) => newTrack(id, `Track ${id}`, order);

function clipAt(id: string, start: number, length: number, change: Partial<Clip> = {}): Clip {
  const recording = { id: change.content?.recordingId ?? "a", name: id, frames: FRAMES };
  return newClip(id, change.track ?? "t", recording, start, { offset: 10000, length, ...change });
}

function laid(...clips: Clip[]): Document {
  return documentOf(newProject("Laid", RATE), {
    tracks: [track("t", 1), track("u", 2)],
    clips,
    recordings
  });
}

/** Clips of a track by when they begin, as "id start+length". */
function lane(doc: Document, id = "t"): string[] {
  return [...lanesOf(doc, [id]).overlapping(id, 0, 2 ** 40)].map((c) => `${c.id} ${c.start}+${c.length}`);
}

function placed(doc: Document, rule: DropRule, id: string, start: number, trackId = "t"): Document {
  const clips = [{ clipId: id, trackId, start }];
  return applyCommand(doc, { type: "clip.place", clips, rule, seed: "new" }).document;
}

function tried(doc: Document, command: Command): Document {
  try {
    return applyCommand(doc, command).document;
  } catch (error) {
    if (!(error instanceof CommandRefused)) throw error;
    return doc;
  }
}

const overlaps = (doc: Document) =>
  ["t", "u"].flatMap((id) => {
    const clips = [...lanesOf(doc, [id]).overlapping(id, 0, 2 ** 40)];
    return clips.flatMap((a, i) =>
      clips
        .slice(i + 1)
        .filter((b) => b.start < endOf(a))
        .map((b) => [a.id, b.id])
    );
  });

describe("a clip dropped on others", () => {
  const doc = laid(clipAt("a", 0, 1000), clipAt("b", 1500, 1000), clipAt("c", 4000, 800));

  it("is crossfaded with what it overlaps, both fades as long as the overlap", () => {
    const after = placed(doc, "crossfade", "c", 800);
    expect(lane(after)).toEqual(["a 0+1000", "c 800+800", "b 1500+1000"]);
    const joins = joinsIn(lanesOf(after, ["t"]), "t", 0, 9000);
    expect(joins.map((j) => [j.left.id, j.right.id, j.overlap, isCrossfade(j)])).toEqual([
      ["a", "c", 200, true],
      ["c", "b", 100, true]
    ]);
  });

  it("takes its crossfades along when it moves on, and leaves none behind", () => {
    const once = placed(doc, "crossfade", "c", 800);
    const nearer = placed(once, "crossfade", "c", 850);
    expect(nearer.get("clips", "a")?.fadeOut.length).toBe(150);
    expect(nearer.get("clips", "c")).toMatchObject({ fadeIn: { length: 150 }, fadeOut: { length: 150 } });
    const gone = placed(nearer, "stayClear", "c", 6000);
    expect(gone.get("clips", "a")?.fadeOut.length).toBe(0);
    expect(gone.get("clips", "c")).toMatchObject({ fadeIn: { length: 0 }, fadeOut: { length: 0 } });
  });

  it("covers what lies under it: trims it, cuts it in two, takes it away", () => {
    const long = laid(clipAt("a", 0, 3000), clipAt("b", 3000, 500), clipAt("c", 9000, 800));
    const within = placed(long, "cover", "c", 1000);
    expect(lane(within)).toEqual(["a 0+1000", "c 1000+800", "new-1 1800+1200", "b 3000+500"]);
    expect(within.get("clips", "new-1")).toMatchObject({ offset: 11800, content: { recordingId: "a" } });
    expect(lane(placed(long, "cover", "c", 2800))).toEqual(["a 0+2800", "c 2800+800"]);
  });

  it("stays clear: goes to the nearest free place, also to one between two", () => {
    expect(lane(placed(doc, "stayClear", "c", 900))).toEqual(["a 0+1000", "b 1500+1000", "c 2500+800"]);
    const short = laid(clipAt("a", 0, 1000), clipAt("b", 1500, 1000), clipAt("c", 4000, 400));
    expect(lane(placed(short, "stayClear", "c", 900))).toEqual(["a 0+1000", "c 1000+400", "b 1500+1000"]);
    expect(lane(placed(short, "stayClear", "c", 1400))).toEqual(["a 0+1000", "c 1100+400", "b 1500+1000"]);
  });

  it("pushes along: goes behind what it falls into, and what comes later makes room, gaps first", () => {
    expect(lane(placed(doc, "pushAlong", "c", 900))).toEqual(["a 0+1000", "c 1000+800", "b 1800+1000"]);
    const many = laid(
      clipAt("a", 0, 500),
      clipAt("b", 600, 500),
      clipAt("d", 1200, 500),
      clipAt("c", 5000, 150)
    );
    expect(lane(placed(many, "pushAlong", "c", 500))).toEqual([
      "a 0+500",
      "c 500+150",
      "b 650+500",
      "d 1200+500"
    ]);
  });

  it("moves with others by the same amount, whatever the rule", () => {
    const two = laid(clipAt("a", 0, 1000), clipAt("c", 4000, 800), clipAt("d", 5000, 800, { track: "u" }));
    for (const rule of ["stayClear", "pushAlong"] as const) {
      const clips = [
        { clipId: "c", trackId: "t", start: 900 },
        { clipId: "d", trackId: "u", start: 1900 }
      ];
      const after = applyCommand(two, { type: "clip.place", clips, rule, seed: "n" }).document;
      expect([after.get("clips", "c")?.start, after.get("clips", "d")?.start]).toEqual([1000, 2000]);
    }
  });
});

describe("any sequence of placing, trimming, inserting and cutting", () => {
  const acts = fc.array(
    fc.record({
      act: fc.constantFrom("place", "trim", "insert", "cut", "close"),
      which: fc.nat(20),
      at: fc.nat(60000),
      length: fc.integer({ min: 1, max: 30000 }),
      lane: fc.constantFrom("t", "u")
    }),
    { minLength: 1, maxLength: 25 }
  );

  const first = () =>
    laid(
      clipAt("a", 0, 5000),
      clipAt("b", 9000, 8000),
      clipAt("c", 20000, 9000),
      clipAt("d", 3000, 9000, { track: "u" })
    );

  function run(
    doc: Document,
    one: { act: string; which: number; at: number; length: number; lane: string },
    rule: DropRule,
    i: number
  ): Document {
    const clips = [...doc.values("clips")].sort((a, b) => (a.id < b.id ? -1 : 1));
    const clip = clips[one.which % Math.max(1, clips.length)];
    const seed = `s${i}`;
    if (!clip) return doc;
    switch (one.act) {
      case "place":
        return tried(doc, {
          type: "clip.place",
          clips: [{ clipId: clip.id, trackId: one.lane, start: one.at }],
          rule,
          seed
        });
      case "trim": {
        const grow = Math.min(clip.offset, clip.start, one.at);
        const window = { start: clip.start - grow, offset: clip.offset - grow, length: one.length };
        return tried(doc, { type: "clip.trim", clipId: clip.id, ...window, rule, seed });
      }
      case "insert": {
        const fresh = clipAt(`i${i}`, one.at, one.length, { track: one.lane });
        return tried(doc, {
          type: "clip.insert",
          clips: [{ clip: fresh, chain: null }],
          rule,
          seed,
          what: "paste"
        });
      }
      case "cut": {
        const at = [clip.start + (one.at % clip.length)];
        return tried(doc, { type: "clip.cut", cuts: [{ clipId: clip.id, at }], blend: 0, seed });
      }
      default:
        return tried(doc, { type: "clip.remove", clipIds: [clip.id], closeGap: true });
    }
  }

  it("never makes clips overlap where they stay clear, and none has a negative or empty length", () => {
    fc.assert(
      fc.property(acts, (list) => {
        let doc = first();
        list.forEach((one, i) => {
          doc = run(doc, one, "stayClear", i);
          expect(overlaps(doc)).toEqual([]);
          for (const clip of doc.values("clips")) {
            expect(clip.length).toBeGreaterThan(0);
            expect(clip.fadeIn.length + clip.fadeOut.length).toBeLessThanOrEqual(clip.length);
          }
        });
      }),
      { numRuns: 150 }
    );
  });

  it("keeps the order of the others, and their overlaps, where it pushes along", () => {
    fc.assert(
      fc.property(acts, (list) => {
        let doc = first();
        list.forEach((one, i) => {
          const clips = [...doc.values("clips")].sort((a, b) => (a.id < b.id ? -1 : 1));
          const clip = clips[one.which % Math.max(1, clips.length)];
          if (!clip) return;
          const others = (d: Document) =>
            ["t", "u"].map((id) =>
              [...lanesOf(d, [id]).overlapping(id, 0, 2 ** 40)]
                .map((c) => c.id)
                .filter((id2) => id2 !== clip.id)
            );
          const before = others(doc);
          const after = tried(doc, {
            type: "clip.place",
            clips: [{ clipId: clip.id, trackId: one.lane, start: one.at }],
            rule: "pushAlong",
            seed: `s${i}`
          });
          expect(others(after)).toEqual(before);
          expect(overlaps(after)).toEqual([]);
          doc = after;
        });
      }),
      { numRuns: 150 }
    );
  });

  it("drops alike in the drawing and on the server", () => {
    const doc = first();
    const was = doc.get("clips", "c") as Clip;
    for (const rule of ["crossfade", "cover", "stayClear", "pushAlong"] as const) {
      const drawn = drop(lanesOf(doc, ["t"]), [was], [{ ...was, start: 10000 }], rule);
      const after = placed(doc, rule, "c", 10000);
      for (const clip of [...drawn.placed, ...drawn.changed])
        expect(after.get("clips", clip.id)).toEqual(clip);
    }
  });
});

describe("cuts", () => {
  const sound = noise(FRAMES, 0.4, 3);
  const source = new ArraySource({ a: [sound, sound.map((x) => x * 0.5)] });
  const whole = laid(clipAt("a", 2000, 60000, { fadeIn: { length: 900, shape: { curve: "smooth" } } }));
  const heard = (doc: Document) => mixed(doc, source, 0, 70000, 512);

  it("without a blend sound as the whole clip did, difference 0", () => {
    const cut: Command = {
      type: "clip.cut",
      cuts: [{ clipId: "a", at: [10000, 33333] }],
      blend: 0,
      seed: "n"
    };
    const after = applyCommand(whole, cut).document;
    expect(lane(after)).toHaveLength(3);
    const [l, r] = heard(whole);
    const [cl, cr] = heard(after);
    expect(cl).toEqual(l);
    expect(cr).toEqual(r);
  });

  it("with a blend differ from the whole only within the blends, by no more than rounding", () => {
    const cut: Command = {
      type: "clip.cut",
      cuts: [{ clipId: "a", at: [10000, 33333] }],
      blend: 240,
      seed: "n"
    };
    const after = applyCommand(whole, cut).document;
    const [l] = heard(whole);
    const [cl] = heard(after);
    for (let i = 0; i < l.length; i++) {
      const near = Math.min(Math.abs(i - 10000), Math.abs(i - 33333)) <= 120;
      if (near) expect(Math.abs((cl[i] ?? 0) - (l[i] ?? 0))).toBeLessThan(1e-6);
      else expect(cl[i]).toBe(l[i]);
    }
  });

  it("a stretch taken out and closed joins both sides; all else is as it was, earlier", () => {
    const after = applyCommand(whole, {
      type: "range.remove",
      trackIds: ["t"],
      clipIds: null,
      from: 20000,
      to: 26000,
      closeGap: true,
      blend: 240,
      seed: "n"
    }).document;
    expect(lane(after)).toEqual(["a 2000+18120", "n-1 19880+36120"]);
    const [l] = heard(whole);
    const [cl] = heard(after);
    expect(cl.subarray(0, 19880)).toEqual(l.subarray(0, 19880));
    expect(cl.subarray(20120, 56000)).toEqual(l.subarray(26120, 62000));
  });

  it("a stretch taken out from the end of one clip to the middle of the next joins the two", () => {
    const two = laid(
      clipAt("a", 0, 10000),
      clipAt("b", 12000, 10000, { offset: 40000 }),
      clipAt("c", 30000, 500)
    );
    const after = applyCommand(two, {
      type: "range.remove",
      trackIds: ["t"],
      clipIds: null,
      from: 9000,
      to: 15000,
      closeGap: true,
      blend: 240,
      seed: "n"
    }).document;
    expect(lane(after)).toEqual(["a 0+9120", "b 8880+7120", "c 24000+500"]);
    const [join] = joinsIn(lanesOf(after, ["t"]), "t", 0, 20000);
    expect(join && isCrossfade(join)).toBe(true);
    expect(after.get("clips", "b")?.offset).toBe(42880);
  });

  it("a stretch taken out and left open is silent, with fades beside it", () => {
    const after = applyCommand(whole, {
      type: "range.remove",
      trackIds: ["t"],
      clipIds: null,
      from: 20000,
      to: 26000,
      closeGap: false,
      blend: 240,
      seed: "n"
    }).document;
    const [cl] = heard(after);
    expect(cl.subarray(20000, 26000).every((x) => x === 0)).toBe(true);
    expect(Math.abs(cl[19999] ?? 1)).toBeLessThan(0.002);
    const [l] = heard(whole);
    expect(cl.subarray(0, 19760)).toEqual(l.subarray(0, 19760));
  });
});

describe("a range treated by a span, and the same range cut out and treated", () => {
  it("differ only within the blends, by less than the blends themselves", () => {
    const sound = noise(FRAMES, 0.2, 11);
    const source = new ArraySource({ a: [sound, sound] });
    const [from, to, blend] = [20000, 40000, 240];
    const whole = laid(clipAt("a", 0, 60000));
    const step = newStep("s", "gain", { gainDb: 6 });
    const spanned = applyCommand(whole, {
      type: "step.add",
      owner: { table: "clips", id: "a" },
      chainId: "chain",
      step: { ...step, span: { from: from + 10000, to: to + 10000, edgeMs: 5 } },
      before: null
    }).document;
    const cuts = [{ clipId: "a", at: [from, to] }];
    const cut = applyCommand(whole, { type: "clip.cut", cuts, blend, seed: "n" }).document;
    const owner = { table: "clips" as const, id: "n-1" };
    const treated = applyCommand(cut, {
      type: "step.add",
      owner,
      chainId: "chain",
      step,
      before: null
    }).document;
    const [a] = mixed(spanned, source, 0, 60000, 512);
    const [b] = mixed(treated, source, 0, 60000, 512);
    for (let i = 0; i < 60000; i++) {
      const near = Math.min(Math.abs(i - from), Math.abs(i - to)) <= blend;
      const apart = Math.abs((a[i] ?? 0) - (b[i] ?? 0));
      if (near) expect(apart).toBeLessThan(0.2);
      else expect(apart).toBeLessThan(1e-7);
    }
  });
});

describe("crossfades", () => {
  const doc = laid(
    clipAt("a", 0, 5000),
    clipAt("b", 5000, 5000, { content: { kind: "audio", recordingId: "b" } })
  );
  const fades = (d: Document) => [d.get("clips", "a")?.fadeOut, d.get("clips", "b")?.fadeIn];

  it("are made around a cut from what the recordings have beyond it, as level power of the measured correlation", () => {
    const pairs = [{ left: "a", right: "b", length: 480, correlation: 0.25 }];
    const after = applyCommand(doc, { type: "crossfade.set", pairs }).document;
    expect(lane(after)).toEqual(["a 0+5240", "b 4760+5240"]);
    const shape = { curve: "levelPower", correlation: 0.25 };
    expect(fades(after)).toEqual([
      { length: 480, shape },
      { length: 480, shape }
    ]);
    const shorter = applyCommand(after, {
      type: "crossfade.set",
      pairs: [{ ...pairs[0], left: "a", right: "b", length: 100 }]
    });
    expect(lane(shorter.document)).toEqual(["a 0+5050", "b 4950+5050"]);
    const moved = applyCommand(after, { type: "crossfade.move", left: "a", right: "b", by: 300 }).document;
    expect(lane(moved)).toEqual(["a 0+5540", "b 5060+4940"]);
    const none = applyCommand(after, {
      type: "crossfade.remove",
      pairs: [{ left: "a", right: "b" }]
    }).document;
    expect(lane(none)).toEqual(["a 0+5000", "b 5000+5000"]);
    expect(fades(none).map((f) => f?.length)).toEqual([0, 0]);
  });

  it("are refused with the reason where no recording has more sound", () => {
    const full = laid(clipAt("a", 0, FRAMES, { offset: 0 }), clipAt("b", FRAMES, 900, { offset: 0 }));
    expect(() =>
      applyCommand(full, { type: "crossfade.set", pairs: [{ left: "a", right: "b", length: 480 }] })
    ).toThrow('"a" and what follows have no sound beyond the cut: there is nothing to crossfade.');
  });
});
