// Clips by track and time: the answers of a search through all of them, and kept up by what changes.
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { newClip } from "../../src/lib/core/session/make";
import type { Clip } from "../../src/lib/core/session/schema";
import { TimelineIndex } from "../../src/lib/core/session/timelineIndex";

const clipAt = (id: string, track: string, start: number, length: number): Clip =>
  newClip(id, track, { id: "r", name: "r", frames: length }, start);

/** Starts and lengths from samples to weeks. */
const clips = fc
  .array(
    fc.record({
      track: fc.constantFrom("a", "b"),
      start: fc.oneof(fc.nat(1000), fc.nat(2 ** 22), fc.nat(2 ** 31)),
      length: fc.oneof(fc.integer({ min: 1, max: 500 }), fc.integer({ min: 1, max: 2 ** 30 }))
    }),
    { maxLength: 60 }
  )
  .map((all) => all.map(({ track, start, length }, i) => clipAt(`c${i}`, track, start, length)));

function searched(all: readonly Clip[], track: string, from: number, to: number): string[] {
  return all
    .filter((c) => c.track === track && c.start < to && c.start + c.length > from)
    .sort((a, b) => a.start - b.start || (a.id < b.id ? -1 : 1))
    .map((c) => c.id);
}

const ids = (found: readonly Clip[]) => found.map((c) => c.id);

describe("the index of the timeline", () => {
  it("finds what a search through all clips finds, in order, and where a track ends", () => {
    fc.assert(
      fc.property(clips, fc.nat(2 ** 31), fc.nat(2 ** 28), (all, from, length) => {
        const index = new TimelineIndex(all);
        for (const track of ["a", "b"]) {
          for (const to of [from, from + 1, from + length, Infinity])
            expect(ids(index.overlapping(track, from, to))).toEqual(
              to > from ? searched(all, track, from, to) : []
            );
          const ends = all.filter((c) => c.track === track).map((c) => c.start + c.length);
          expect(index.end(track)).toBe(Math.max(0, ...ends));
        }
        expect(index.overlapping("none", 0, 100)).toEqual([]);
      }),
      { numRuns: 100 }
    );
  });

  it("is kept up by changes as if it had been made anew: moved, trimmed, to another track, gone, back", () => {
    fc.assert(
      fc.property(clips, clips, (before, after) => {
        const index = new TimelineIndex(before);
        const most = Math.max(before.length, after.length);
        for (let i = 0; i < most; i++) index.change(before[i] ?? null, after[i] ?? null);
        for (const track of ["a", "b"]) {
          expect(ids(index.overlapping(track, 0, Infinity))).toEqual(searched(after, track, 0, Infinity));
          expect(index.end(track)).toBe(new TimelineIndex(after).end(track));
        }
      }),
      { numRuns: 60 }
    );
  });
});
