// A timeline for other programs, and again a project: the same clips, fades and gains on the same sound.
import { folder } from "./folder";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { ZipFile } from "yazl";
import { newClip, newSection } from "../../src/lib/core/session/make";
import { recordingsByName, tracksInOrder } from "../../src/lib/core/session/lookup";
import type { Document } from "../../src/lib/core/session/document";
import { timelineBundle } from "../../src/lib/server/archive/writeTimeline";
import { closeDatabase } from "../../src/lib/server/db/connection";
import { startUnpack } from "../../src/lib/server/jobs/order";
import { closePool } from "../../src/lib/server/jobs/pool";
import { startRunner } from "../../src/lib/server/jobs/runner";
import { createProject } from "../../src/lib/server/services/projects";
import { noise } from "../core/signals";
import { wav16 } from "../core/wavBytes";
import * as project from "../support/project";
import { cleared, ended, importing, uploaded } from "../support/jobs";
import { useThreads } from "../support/threads";

let projectId = "";

async function opened(bytes: Uint8Array, name: string) {
  const job = await ended((await startUnpack(uploaded(bytes), name)).id);
  await cleared(job.id);
  return job;
}

async function bytesOf(stream: AsyncIterable<unknown>): Promise<Buffer> {
  const parts: Uint8Array[] = [];
  for await (const part of stream) parts.push(part as Uint8Array);
  return Buffer.concat(parts);
}

const plain = (doc: Document) =>
  [...doc.values("clips")]
    .map(({ name, start, offset, length, gainDb, fadeIn, fadeOut, content, track }) => ({
      ...{ name, start, offset, length, gainDb, fadeIn, fadeOut, recording: content.recordingId },
      track: doc.get("tracks", track)?.name
    }))
    .sort((a, b) => a.start - b.start);

beforeAll(async () => {
  await useThreads(folder);
  startRunner();
  projectId = await createProject("Crossing", 48000);
  await importing(projectId, "Deck.wav", wav16(noise(48000, 0.2, 61)));
  await importing(projectId, "Pier.wav", wav16(noise(30000, 0.1, 62), 44100));
  const doc = await project.documentNow(projectId);
  const [track] = tracksInOrder(doc);
  const [deck, pier] = recordingsByName(doc);
  if (!track || !deck || !pier) throw new Error("The project is not as it should be.");
  const fadeIn = { length: 2400, shape: { curve: "smooth" as const } };
  await project.run(
    projectId,
    {
      type: "clip.add",
      clip: newClip("a", track.id, deck, 480, { offset: 100, length: 40000, fadeIn }),
      chain: null
    },
    { type: "clip.add", clip: newClip("b", track.id, pier, 39000, { gainDb: -3 }), chain: null },
    { type: "section.add", section: newSection("s", "Opening", 0, 48000) }
  );
});

afterAll(async () => {
  await closePool();
  await closeDatabase();
});

describe("a bundle of OpenTimelineIO", () => {
  it("comes back as the same clips on the same recordings", async () => {
    const { name, stream } = await timelineBundle(projectId);
    expect(name).toBe("Crossing.otioz");
    const job = await opened(await bytesOf(stream), name);
    expect(job.error).toBeNull();
    const { projectId: id, missing } = job.result as { projectId: string; missing: string[] };
    expect(missing).toEqual([]);
    const [was, now] = [await project.documentNow(projectId), await project.documentNow(id)];
    expect(plain(now)).toEqual(plain(was));
    expect([...now.values("sections")].map((s) => [s.name, s.start, s.length])).toEqual([
      ["Opening", 0, 48000]
    ]);
  });

  it("without one of its files and with another that is broken says so, and brings the rest", async () => {
    const zip = new ZipFile();
    const time = (value: number) => ({ OTIO_SCHEMA: "RationalTime.1", rate: 25, value });
    const clip = (url: string) => ({
      OTIO_SCHEMA: "Clip.1",
      name: url,
      source_range: { OTIO_SCHEMA: "TimeRange.1", start_time: time(0), duration: time(10) },
      media_reference: { OTIO_SCHEMA: "ExternalReference.1", target_url: url }
    });
    const children = ["media/good%20one.wav", "media/gone.wav", "file:///home/x/broken.wav"].map(clip);
    const track = { OTIO_SCHEMA: "Track.1", name: "A1", kind: "Audio", children };
    const timeline = {
      OTIO_SCHEMA: "Timeline.1",
      name: "Reel",
      tracks: { OTIO_SCHEMA: "Stack.1", children: [track] }
    };
    zip.addBuffer(Buffer.from(JSON.stringify(timeline)), "content.otio");
    zip.addBuffer(Buffer.from(wav16(noise(48000, 0.2, 63))), "media/good one.wav");
    zip.addBuffer(Buffer.from("RIFFnothing"), "media/broken.wav");
    zip.end();
    const job = await opened(await bytesOf(zip.outputStream), "Reel.otioz");
    expect(job.error).toBeNull();
    const { projectId: id, missing } = job.result as { projectId: string; missing: string[] };
    expect(missing).toHaveLength(3);
    expect(missing[0]).toMatch(/^"broken.wav" cannot be used: /);
    expect(missing[1]).toBe('"media/gone.wav": its audio is not there');
    const doc = await project.documentNow(id);
    expect(plain(doc).map(({ start, length }) => [start, length])).toEqual([[0, 19200]]);
  });

  it.each([
    ["that is no timeline", "{}", /its timeline is not right/],
    ["whose timeline is no JSON", "{", /its timeline is not JSON/]
  ])("%s is refused with a sentence", async (_what, text, sentence) => {
    const zip = new ZipFile();
    zip.addBuffer(Buffer.from(text), "content.otio");
    zip.end();
    const job = await opened(await bytesOf(zip.outputStream), "Bad.otioz");
    expect(job.error).toMatch(/^"Bad.otioz" was not opened: .*\.$/);
    expect(job.error).toMatch(sentence);
  });
});
