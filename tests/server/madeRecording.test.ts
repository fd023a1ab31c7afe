// A recording that is made in one pass is what an import of the same samples makes: file, hash, overview.
import { folder } from "./folder";
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import path from "node:path";
import { describe, expect, it } from "vitest";
import { StereoBlock } from "../../src/lib/core/audio/block";
import { ingest } from "../../src/lib/server/media/ingest";
import { MadeRecording } from "../../src/lib/server/media/madeRecording";
import { noise, RATE } from "../core/signals";
import { wavBytes } from "../core/wavBytes";

function scratch(name: string): string {
  const made = path.join(folder, name);
  mkdirSync(made);
  return made;
}

/** Writes two channels in pieces of uneven length. */
function write(made: MadeRecording, [left, right]: readonly Float32Array[]): void {
  const block = new StereoBlock(4096);
  for (let at = 0, piece = 1; at < left.length; piece = (piece * 7 + 3) % 4096) {
    const n = Math.min(piece + 1, left.length - at);
    block.left.f32.set(left.subarray(at, at + n));
    block.right.f32.set(right.subarray(at, at + n));
    made.write(block.left.ptr, block.right.ptr, n);
    at += n;
  }
  block.release();
}

describe("a recording that is made", () => {
  it.each([1, 700, 65536, 300001])("of %i frames is as if it had been imported", (frames) => {
    const channels = [1, 2].map((seed) => noise(frames, 0.9, seed));
    const own = scratch(`made-${frames}`);
    const made = new MadeRecording(path.join(own, "made.wav"), RATE);
    write(made, channels);
    const hash = made.finish(() => undefined);
    const given = scratch(`given-${frames}`);
    const file = path.join(given, "given.wav");
    writeFileSync(file, wavBytes({ channels, sampleRate: RATE, kind: "float32" }));
    const known = ingest(file, folder, RATE, given, () => undefined);
    expect(readdirSync(own).sort()).toEqual(["made.wav", `${hash}.${RATE}.o2.overview`].sort());
    const [overview] = readdirSync(own).filter((name) => name.endsWith(".overview"));
    const [wanted] = readdirSync(given).filter((name) => name.endsWith(".overview"));
    expect(readFileSync(path.join(own, overview)).equals(readFileSync(path.join(given, wanted)))).toBe(true);
    expect(known.frames).toBe(frames);
    const again = ingest(
      path.join(own, "made.wav"),
      folder,
      RATE,
      scratch(`again-${frames}`),
      () => undefined
    );
    expect([again.hash, again.frames]).toEqual([hash, frames]);
  });

  it("names the first sample that is no number", () => {
    const channels = [1, 2].map((seed) => noise(100000, 0.9, seed));
    channels[1][72000] = NaN;
    const made = new MadeRecording(path.join(scratch("bad"), "made.wav"), RATE);
    const all = () => {
      write(made, channels);
      made.finish(() => undefined);
    };
    expect(all).toThrow("sample 72000 (at 1.500 s) is not a number or infinite");
    made.abandon();
  });
});
