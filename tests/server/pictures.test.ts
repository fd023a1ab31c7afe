// Small copies of the pictures of videos that browsers do not know.
import { folder } from "./folder";
import { execFileSync } from "node:child_process";
import { existsSync, mkdtempSync, readFileSync, rmSync, statSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { closeDatabase } from "../../src/lib/server/db/connection";
import { startJob } from "../../src/lib/server/jobs/order";
import { closePool } from "../../src/lib/server/jobs/pool";
import { startRunner } from "../../src/lib/server/jobs/runner";
import { picturePath, sourcePath } from "../../src/lib/server/media/paths";
import { MediaStore } from "../../src/lib/server/media/store";
import { createProject } from "../../src/lib/server/services/projects";
import type { Recording } from "../../src/lib/core/session/schema";
import { noise } from "../core/signals";
import { wav16 } from "../core/wavBytes";
import { imported, mediaFiles, ordered } from "../support/jobs";
import { useThreads } from "../support/threads";

const installed = existsSync("/usr/bin/ffmpeg");
const made = mkdtempSync(path.join(tmpdir(), "wring-pictures-"));
let projectId = "";

let videos = 0;

/** A video of 4 s, 25 pictures a second, as ffmpeg is told to make it; each has a sound of its own. */
function video(name: string, ...how: string[]): Buffer {
  const file = path.join(made, name);
  const picture = ["-f", "lavfi", "-i", "testsrc=size=320x180:rate=25:duration=4"];
  const sound = ["-f", "lavfi", "-i", `sine=frequency=${400 + 10 * ++videos}:sample_rate=48000:duration=4`];
  execFileSync("ffmpeg", ["-v", "error", "-nostdin", "-y", ...picture, ...sound, ...how, file]);
  return readFileSync(file);
}

/** Times of all pictures of a file, from its first on, to a thousandth of a second; and which are whole. */
function picturesOf(file: string): { times: number[]; whole: number[] } {
  const told = execFileSync("ffprobe", [
    ...["-v", "error", "-select_streams", "v:0", "-show_entries", "frame=pts_time,key_frame"],
    ...["-of", "json", file]
  ]).toString();
  const { frames } = JSON.parse(told) as { frames: { pts_time: string; key_frame: number }[] };
  const first = Number(frames[0]?.pts_time);
  return {
    times: frames.map((one) => Math.round((Number(one.pts_time) - first) * 1000) / 1000),
    whole: frames.flatMap((one, i) => (one.key_frame === 1 ? [i] : []))
  };
}

const copy = ({ media }: Recording) => picturePath(folder, media ?? "");

beforeAll(async () => {
  await useThreads(folder);
  startRunner();
  projectId = await createProject("Pictures", 48000);
});

afterAll(async () => {
  await closePool();
  await closeDatabase();
  rmSync(made, { recursive: true, force: true });
});

describe.skipIf(!installed)("the picture of a video that browsers do not know", () => {
  it("is copied picture for picture as H.264 with a whole one every twelve, once", async () => {
    const prores = ["-c:v", "prores_ks", "-profile:v", "0", "-c:a", "pcm_s16le"];
    const recording = await imported(projectId, "ferry.mov", video("ferry.mov", ...prores));
    const job = await ordered(projectId, { kind: "picture", recordingId: recording.id });
    expect(job).toMatchObject({ state: "done", error: null, result: { recordingId: recording.id } });
    const { times, whole } = picturesOf(copy(recording));
    expect(times).toEqual(Array.from({ length: 100 }, (_, i) => Math.round(i * 40) / 1000));
    expect(whole).toEqual(Array.from({ length: 9 }, (_, i) => i * 12));
    const streams = execFileSync("ffprobe", [
      ...["-v", "error", "-show_entries", "stream=codec_name,width,height,pix_fmt", "-of", "csv=p=0"],
      copy(recording)
    ]).toString();
    expect(streams.trim()).toBe("h264,320,180,yuv420p");
    const { mtimeMs } = statSync(copy(recording));
    expect(await ordered(projectId, { kind: "picture", recordingId: recording.id })).toMatchObject({
      state: "done"
    });
    expect(statSync(copy(recording)).mtimeMs).toBe(mtimeMs);
    // It is a cache: it stays at a sweep, and goes with its recording.
    const store = new MediaStore(folder);
    store.sweep();
    expect(existsSync(copy(recording))).toBe(true);
    store.remove(recording.media ?? "");
    expect(mediaFiles().filter((name) => name.includes(recording.media ?? "none"))).toEqual([]);
  });

  it("keeps the times of pictures that come at no fixed rate, counted from the first", async () => {
    // Two of three pictures are left out in the second half, and the picture begins half a second after the sound.
    const uneven = ["-vf", "select='lt(t,2)+not(mod(n,3))',setpts=PTS+0.5/TB", "-vsync", "0"];
    const bytes = video("uneven.mkv", ...uneven, "-c:v", "mpeg4", "-c:a", "flac");
    const recording = await imported(projectId, "uneven.mkv", bytes);
    expect(await ordered(projectId, { kind: "picture", recordingId: recording.id })).toMatchObject({
      state: "done"
    });
    const { times } = picturesOf(copy(recording));
    const given = picturesOf(sourcePath(folder, recording.media ?? "")).times;
    expect(times.length).toBe(given.length);
    expect(Math.max(...times.map((time, i) => Math.abs(time - (given[i] ?? NaN))))).toBeLessThanOrEqual(
      0.001
    );
    // Its writer puts the first a frame earlier, as ffprobe says too.
    expect(recording.about?.video?.offset).toBeCloseTo(-0.48, 3);
  });

  it("is refused in one sentence where there is none, and where it cannot be read; nothing is left over", async () => {
    const sound = await imported(projectId, "gulls.wav", wav16(noise(9600, 0.2, 3)));
    await expect(startJob(projectId, { kind: "picture", recordingId: sound.id })).rejects.toThrow(
      "The recording has no video."
    );
    const recording = await imported(
      projectId,
      "pier.mov",
      video("pier.mov", "-c:v", "prores_ks", "-c:a", "pcm_s16le", "-metadata", "title=Pier")
    );
    // The file as it was given is gone bad on the disk.
    const source = sourcePath(folder, recording.media ?? "");
    rmSync(source);
    const job = await ordered(projectId, { kind: "picture", recordingId: recording.id });
    expect(job).toMatchObject({ state: "failed", error: 'The video of "pier" is not kept.' });
    expect(existsSync(copy(recording))).toBe(false);
  });
});
