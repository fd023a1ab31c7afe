// Whether a file ends whole, on files that ffmpeg writes: every whole one does, and one that is cut anywhere inside a frame does not.
import { execFileSync } from "node:child_process";
import { existsSync, mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll, describe, expect, it } from "vitest";
import { endsWhole } from "../../src/lib/core/formats/fileEnd";

const installed = existsSync("/usr/bin/ffmpeg");

const WAYS: readonly (readonly [format: string, name: string, ...how: string[]])[] = [
  ...[32, 128, 192, 320].flatMap((kbits) =>
    [44100, 48000, 32000].map(
      (rate) => ["mp3", `layer III of ${kbits}k at ${rate}`, "-ar", `${rate}`, "-b:a", `${kbits}k`] as const
    )
  ),
  ["mp3", "layer III with a changing rate", "-q:a", "4"],
  ...[22050, 16000, 11025, 8000].map(
    (rate) => ["mp3", `layer III at ${rate}`, "-ar", `${rate}`, "-b:a", "32k"] as const
  ),
  ["mp2", "layer II at 44100", "-ar", "44100", "-b:a", "160k"],
  ["mp2", "layer II at 24000", "-ar", "24000", "-b:a", "64k"],
  ["adts", "AAC at 44100", "-c:a", "aac", "-ar", "44100"],
  ["adts", "AAC at 8000", "-c:a", "aac", "-ar", "8000"],
  ...[44100, 48000, 32000].map((rate) => ["ac3", `AC-3 at ${rate}`, "-ar", `${rate}`] as const),
  ["ac3", "AC-3 of 384k", "-ac", "2", "-b:a", "384k"],
  ["eac3", "E-AC-3", "-b:a", "96k"],
  ["ogg", "Vorbis", "-c:a", "libvorbis"],
  ["ogg", "Opus", "-c:a", "libopus"],
  ["ogg", "FLAC in Ogg", "-c:a", "flac"],
  ["caf", "CAF", "-c:a", "pcm_s16le"],
  ["asf", "WMA", "-c:a", "wmav2"]
];

const folder = mkdtempSync(path.join(tmpdir(), "wring-ends-"));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** Two seconds of noise as ffmpeg writes them. */
function written(muxer: string, how: readonly string[]): Buffer {
  const target = path.join(folder, "sound");
  const tag = muxer === "mp3" ? ["-write_xing", "0"] : [];
  const noise = ["-f", "lavfi", "-i", "anoisesrc=r=48000:d=2:a=0.2:seed=5"];
  execFileSync("ffmpeg", ["-v", "error", "-nostdin", "-y", ...noise, ...how, ...tag, "-f", muxer, target]);
  return readFileSync(target);
}

const ends = (format: string, file: Buffer): boolean =>
  endsWhole(format, file.length, (at, length) => file.subarray(at, at + length));

/** Frames are longer than that: of so many cuts in a row at most one lies between two. */
const CUTS = 20;

describe.skipIf(!installed)("a file that does not tell its length", () => {
  it.each(WAYS)("%s: %s ends whole, and not when it is cut", (muxer, _name, ...how) => {
    const file = written(muxer, how);
    const format = { mp2: "mp3", adts: "aac" }[muxer] ?? muxer;
    expect(ends(format, file)).toBe(true);
    for (const share of [0.3, 0.5, 0.77, 0.9]) {
      const from = Math.floor(file.length * share);
      const cuts = Array.from({ length: CUTS }, (_, i) => ends(format, file.subarray(0, from + i)));
      expect(cuts.filter((whole) => whole).length, `cut at ${share}`).toBeLessThanOrEqual(1);
    }
  });

  it("may have a tag behind its sound", () => {
    const tagged = Buffer.concat([written("mp3", []), Buffer.from("TAG".padEnd(128, "x"), "latin1")]);
    expect(ends("mp3", tagged)).toBe(true);
  });

  it("that goes to its end, or is a broadcast, ends whole wherever it ends", () => {
    const caf = written("caf", ["-c:a", "pcm_s16le"]);
    expect(ends("caf", caf.subarray(0, 100000))).toBe(false);
    caf.writeBigInt64BE(-1n, caf.indexOf("data", 0, "latin1") + 4);
    expect(ends("caf", caf.subarray(0, 100000))).toBe(true);
    const asf = written("asf", ["-c:a", "wmav2"]);
    const half = asf.subarray(0, asf.length / 2);
    expect(ends("asf", half)).toBe(false);
    const properties = asf.indexOf(Buffer.from("a1dcab8c47a9cf118ee400c00c205365", "hex"));
    asf.writeUInt32LE(asf.readUInt32LE(properties + 88) | 1, properties + 88);
    expect(ends("asf", half)).toBe(true);
  });

  it("that holds nothing a frame could be found in is left to the decoder", () => {
    const noise = Buffer.from(Array.from({ length: 5000 }, (_, i) => (i * 7919 * ((i >> 3) + 13)) & 127));
    expect(ends("mp3", noise)).toBe(true);
    expect(ends("wav", noise)).toBe(true);
    expect(ends("ogg", noise)).toBe(false);
  });
});
