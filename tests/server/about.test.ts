// What files say of themselves comes along: markers, times, notes, tags, chapters, pictures, several sound tracks.
import { folder } from "./folder";
import { execFileSync } from "node:child_process";
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { bextChunk } from "../../src/lib/core/formats/bext";
import { markerChunks } from "../../src/lib/core/formats/cues";
import { wavHeader } from "../../src/lib/core/formats/wavWriter";
import type { Chunk } from "../../src/lib/core/formats/wavChunks";
import { originalStart, sectionsOfMarkers } from "../../src/lib/core/session/markers";
import type { DeliveredFile } from "../../src/lib/api/delivery";
import { standardSettings } from "../../src/lib/core/delivery/settings";
import { newStep } from "../../src/lib/core/session/make";
import { deliveredPath } from "../../src/lib/server/jobs/kinds/deliver";
import { orderDelivery } from "../../src/lib/server/services/deliveries";
import { closeDatabase } from "../../src/lib/server/db/connection";
import { closePool } from "../../src/lib/server/jobs/pool";
import { startRunner } from "../../src/lib/server/jobs/runner";
import { createProject } from "../../src/lib/server/services/projects";
import { noise } from "../core/signals";
import * as project from "../support/project";
import { ended, imported, ordered } from "../support/jobs";
import { useThreads } from "../support/threads";

const installed = existsSync("/usr/bin/ffmpeg");
const made = mkdtempSync(path.join(tmpdir(), "wring-about-"));
let projectId = "";

/** A stereo file of noise with chunks of its own, at 96 kHz. */
function withChunks(seed: number, chunks: readonly Chunk[]): Uint8Array {
  const frames = 96000;
  const head = wavHeader("int16", 1, 96000, frames, chunks);
  const bytes = new Uint8Array(head.length + frames * 2);
  bytes.set(head);
  const view = new DataView(bytes.buffer);
  noise(frames, 0.2, seed).forEach((x, i) => view.setInt16(head.length + 2 * i, Math.round(x * 32767), true));
  return bytes;
}

function ffmpeg(...args: string[]): void {
  execFileSync("ffmpeg", ["-v", "error", "-nostdin", "-y", ...args]);
}

beforeAll(async () => {
  await useThreads(folder);
  startRunner();
  projectId = await createProject("About", 48000);
});

afterAll(async () => {
  await closePool();
  await closeDatabase();
  rmSync(made, { recursive: true, force: true });
});

describe("a WAV file", () => {
  const bext = bextChunk({
    description: "Harbour, take 3",
    originator: "Field recorder",
    originatorReference: "",
    date: "2031-04-09",
    time: "06:00:00",
    timeReference: 96000 * 3600,
    loudness: null,
    codingHistory: ""
  });
  const xml = `<?xml version="1.0"?><BWFXML><PROJECT>Ferry</PROJECT><SCENE>12A</SCENE><TAKE>3</TAKE><NOTE>gulls &amp; wind</NOTE></BWFXML>`;
  const text = (body: string) => new TextEncoder().encode(body);

  it("brings its markers, its time and its notes", async () => {
    const chunks = [
      bext,
      ...markerChunks([
        { start: 9600, length: 0, name: "Gull" },
        { start: 48000, length: 9600, name: "Möwe" }
      ]),
      { id: "iXML", body: text(xml) }
    ];
    const recording = await imported(projectId, "12A-3.wav", withChunks(31, chunks));
    // At 48 kHz a marker of the file at 96 kHz lies at half its frame.
    expect(recording.about).toMatchObject({
      file: "12A-3.wav",
      origin: 96000 * 3600,
      markers: [
        { name: "Gull", start: 4800, length: 0 },
        { name: "Möwe", start: 24000, length: 4800 }
      ],
      video: null,
      note: null
    });
    expect(recording.about?.tags).toMatchObject({
      description: "Harbour, take 3",
      scene: "12A",
      take: "3",
      notes: "gulls & wind",
      project: "Ferry"
    });
    expect(recording.about?.loudness).toBeCloseTo(-17, -1);
    expect(originalStart(recording, 48000)).toBe(48000 * 3600);
    const clip = { start: 1000, offset: 2400, length: 24000 };
    expect(sectionsOfMarkers(clip, recording)).toEqual([
      { name: "Gull", start: 1000 + 2400, length: 19200 },
      { name: "Möwe", start: 1000 + 21600, length: 2400 }
    ]);
  });

  it.each([
    ["cut iXML", { id: "iXML", body: text(xml.slice(0, 60)) }],
    [
      "an entity that points elsewhere",
      {
        id: "iXML",
        body: text(`<!DOCTYPE a [<!ENTITY x SYSTEM "file:///etc/passwd">]><BWFXML><NOTE>&x;</NOTE></BWFXML>`)
      }
    ],
    ["a bext chunk of ten bytes", { id: "bext", body: new Uint8Array(10) }],
    ["a cue chunk that promises millions", { id: "cue ", body: new Uint8Array([255, 255, 255, 0, 1]) }],
    ["a list that ends within a name", { id: "LIST", body: text("INFOINAM\xff\xff\xff\x00x") }]
  ])("with %s is taken as any other", async (name, chunk) => {
    const recording = await imported(projectId, `${name}.wav`, withChunks(name.length, [chunk]));
    expect(recording.about?.markers).toEqual([]);
    expect(JSON.stringify(recording.about?.tags)).not.toContain("root:");
  });
});

describe.runIf(installed)("other files", () => {
  it("bring tags and chapters", async () => {
    const source = path.join(made, "source.wav");
    writeFileSync(source, withChunks(51, []));
    const meta = path.join(made, "meta.txt");
    writeFileSync(
      meta,
      ";FFMETADATA1\ntitle=Ferry\nartist=Nobody\n[CHAPTER]\nTIMEBASE=1/1000\nSTART=0\nEND=250\ntitle=One\n[CHAPTER]\nTIMEBASE=1/1000\nSTART=250\nEND=1000\ntitle=Two\n"
    );
    const file = path.join(made, "ferry.m4a");
    ffmpeg(
      "-i",
      source,
      "-f",
      "ffmetadata",
      "-i",
      meta,
      "-map_metadata",
      "1",
      "-map_chapters",
      "1",
      "-ar",
      "48000",
      file
    );
    const { about } = await imported(projectId, "ferry.m4a", readFileSync(file));
    expect(about?.tags).toMatchObject({ title: "Ferry", artist: "Nobody" });
    expect(about?.markers).toEqual([
      { name: "One", start: 0, length: 12000 },
      { name: "Two", start: 12000, length: 36000 }
    ]);
    expect(about?.format).toBe("MP4, AAC");
  });

  it("a video remembers its picture and when the sound begins; another of its sound tracks is a recording of its own", async () => {
    const file = path.join(made, "boat.mkv");
    ffmpeg(
      ...["-f", "lavfi", "-i", "testsrc=size=160x90:rate=25:duration=2"],
      ...["-itsoffset", "0.4", "-f", "lavfi", "-i", "sine=frequency=300:sample_rate=48000:duration=1.5"],
      ...["-f", "lavfi", "-i", "sine=frequency=900:sample_rate=48000:duration=2"],
      ...["-map", "0:v", "-map", "1:a", "-map", "2:a", "-c:v", "libx264", "-c:a", "flac"],
      ...["-metadata:s:a:0", "title=Ship", "-metadata:s:a:1", "title=Shore", file]
    );
    const ship = await imported(projectId, "boat.mkv", readFileSync(file));
    expect(ship.about?.video).toMatchObject({ container: "mkv", width: 160, height: 90, frameRate: 25 });
    expect(ship.about?.video?.offset).toBeCloseTo(0.4, 2);
    expect(ship.about?.sounds.map((s) => s.name)).toEqual(["1: Ship, 1 ch", "2: Shore, 1 ch"]);
    const other = ship.about?.sounds[1];
    const job = await ordered(projectId, {
      kind: "soundTrack",
      recordingId: ship.id,
      stream: other?.stream ?? -1
    });
    expect(job.error).toBeNull();
    const id = (job.result as { recordingId: string }).recordingId;
    const shore = (await project.documentNow(projectId)).get("recordings", id);
    expect([shore?.name, shore?.frames]).toEqual(["boat, sound 2", 96000]);
    expect(ship.frames).toBe(72000);
    await expect(
      ordered(projectId, { kind: "soundTrack", recordingId: ship.id, stream: 77 })
    ).rejects.toThrow("There is no such sound track.");
  });

  it("that cannot be exact say so", async () => {
    const file = path.join(made, "plain.aac");
    const source = path.join(made, "plain.wav");
    writeFileSync(source, withChunks(53, []));
    ffmpeg("-i", source, "-ar", "48000", "-c:a", "aac", file);
    expect((await imported(projectId, "plain.aac", readFileSync(file))).about?.note).toMatch(
      /does not tell its coder's delay/
    );
  });
});

describe.runIf(installed)("a treated sound goes back into its video", () => {
  /** A hash of the picture's packets, as they lie in the file; of the pictures themselves where H.264 is framed in another way. */
  function picture(file: string, ending: string): string {
    const how = ending === "ts" ? [] : ["-c", "copy"];
    const hash = ["-f", "streamhash", "-hash", "sha256", "-"];
    return execFileSync("ffmpeg", ["-v", "error", "-i", file, "-map", "0:v", ...how, ...hash]).toString();
  }

  /** When a sound is first heard in a file, in seconds from its first picture. */
  function onset(file: string): number {
    const firstOf = (stream: string) => {
      const how = ["-of", "json", "-show_frames", "-read_intervals", "%+#8", "-select_streams", stream];
      const text = execFileSync("ffprobe", ["-v", "error", ...how, file]).toString();
      const { frames } = JSON.parse(text) as { frames: { pts_time: string }[] };
      return Number(frames[0].pts_time);
    };
    const bytes = execFileSync(
      "ffmpeg",
      ["-v", "error", "-i", file, "-map", "0:a:0", "-ac", "1", "-ar", "48000", "-f", "f32le", "-"],
      {
        maxBuffer: 1 << 28
      }
    );
    const samples = new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length));
    const first = samples.findIndex((x) => Math.abs(x) > 0.02);
    return firstOf("a:0") - firstOf("v:0") + first / 48000;
  }

  it.each([
    ["mp4", "libx264", "aac", 0],
    ["mov", "libx264", "pcm_s16le", 0],
    ["mkv", "libx264", "flac", 0],
    ["webm", "libvpx", "libopus", 0],
    ["mxf", "mpeg2video", "pcm_s24le", 0],
    ["mp4", "libx264", "aac", 0.3],
    ["mkv", "libx264", "aac", 0],
    ["webm", "libvpx", "libopus", 0.3],
    ["avi", "mpeg4", "pcm_s16le", 0],
    ["ts", "libx264", "aac", 0.3],
    ["mpg", "mpeg2video", "mp2", 0.3],
    ["wmv", "wmv2", "wmav2", 0]
  ])("%s with %s and %s, sound %s s late", async (ending, pictures, coder, late) => {
    const id = `${ending}-${coder}-${late * 1000}`;
    const name = `crossing-${id}.${ending}`;
    const written = ["mxf", "ts", "mpg", "wmv"].includes(ending) ? "mkv" : ending;
    const file = path.join(made, name);
    // Each a sound of its own.
    const seed = [...id].reduce((sum, letter) => sum + letter.charCodeAt(0), 0);
    ffmpeg(
      ...["-f", "lavfi", "-i", "testsrc=size=160x90:rate=25:duration=3"],
      ...["-itsoffset", String(late)],
      ...["-f", "lavfi", "-i", `aevalsrc='if(gt(t,1),0.1*sin(2*PI*${300 + seed}*t),0)':s=48000:d=3`],
      ...["-c:v", pictures, "-c:a", coder, file]
    );
    const recording = await imported(projectId, name, readFileSync(file));
    await project.run(projectId, {
      type: "step.add",
      owner: { table: "recordings", id: recording.id },
      chainId: `chain-${id}`,
      step: newStep(`louder-${id}`, "gain", { gainDb: 6 }),
      before: null
    });
    const wanted = { what: "videos" as const, ids: [recording.id] };
    const [order] = await orderDelivery(projectId, { wanted, settings: standardSettings() });
    const done = await ended(order?.job.id ?? "");
    expect(done.error).toBeNull();
    const result = done.result as DeliveredFile;
    expect(result.fileName).toMatch(new RegExp(`crossing-${id}.*\\.${written}$`));
    const back = deliveredPath(done.id) ?? "";
    expect(picture(back, ending)).toBe(picture(file, ending));
    // Stamps of Matroska and WebM are whole milliseconds.
    const coarse = ["mkv", "webm"].includes(written) ? 0.002 : 0.0002;
    expect(Math.abs(onset(back) - onset(file))).toBeLessThan(coarse);
    expect(result.frames).toBe(recording.frames);
    // 6 dB louder than it was: its own loudness was measured when it came in.
    expect((result.measurement.integratedLufs ?? 0) - (recording.about?.loudness ?? 0)).toBeCloseTo(6, 0);
  });
});
