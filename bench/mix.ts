// Speed of the core on the demo: mixing it with all its effects, loudness, the waveform overview; and memory in the steady state.
import { performance } from "node:perf_hooks";
import { BLOCK, StereoBlock } from "../src/lib/core/audio/block";
import { kernels } from "../src/lib/core/kernels/instance";
import { Meter } from "../src/lib/core/measure/meter";
import { Plan } from "../src/lib/core/render/graph";
import { MixStream } from "../src/lib/core/render/mix";
import { Document } from "../src/lib/core/session/document";
import { programmeEnd, recordingsByName, resolveClip } from "../src/lib/core/session/lookup";
import { closeDatabase } from "../src/lib/server/db/connection";
import { FileSource } from "../src/lib/server/media/fileSource";
import { listProjects, projectState } from "../src/lib/server/services/projects";
import { filesOf } from "../src/lib/server/services/recordings";
import { median, row } from "./table";

/** The demo with every render taken away: all chains of clips live. Those of tracks and the mix are left out, as they were once. */
function allLive(doc: Document): Document {
  const clips = [...doc.values("clips")].map((clip) => ({
    table: "clips" as const,
    id: clip.id,
    before: clip,
    after: { ...clip, render: null }
  }));
  const tracks = [...doc.values("tracks")].map((track) => ({
    table: "tracks" as const,
    id: track.id,
    before: track,
    after: { ...track, chain: null }
  }));
  const { project } = doc;
  const bare = { ...project, mix: { ...project.mix, chain: null } };
  return doc.with([...clips, ...tracks, { table: "project", id: project.id, before: project, after: bare }]);
}

function mixOnce(doc: Document, source: FileSource, block: StereoBlock): number {
  const end = programmeEnd(doc);
  const mix = new MixStream(new Plan(doc), source);
  const begin = performance.now();
  for (let at = 0; at < end; at += BLOCK) mix.read(block.left.ptr, block.right.ptr, BLOCK);
  const seconds = (performance.now() - begin) / 1000;
  mix.release();
  return end / doc.sampleRate / seconds;
}

/** Heap that a second of one busy clip's chain leaves behind, in bytes a block. */
function allocation(doc: Document, source: FileSource, block: StereoBlock): number {
  const clip = [...doc.values("clips")].find((c) => resolveClip(doc, c).steps.length >= 4);
  if (!clip || !globalThis.gc) throw new Error("Run the benchmark with --expose-gc on the demo.");
  const blocks = 500;
  const pass = (mix: MixStream, n: number) => {
    for (let i = 0; i < n; i++) mix.read(block.left.ptr, block.right.ptr, BLOCK);
  };
  // The steady state is that of optimized code: the engine needs some seconds of sound until then.
  for (let k = 0; k < 20; k++) {
    const warm = new MixStream(new Plan(doc), source, clip.start);
    pass(warm, blocks);
    warm.release();
  }
  const mix = new MixStream(new Plan(doc), source, clip.start);
  pass(mix, 100);
  globalThis.gc();
  const before = process.memoryUsage().heapUsed;
  pass(mix, blocks);
  const after = process.memoryUsage().heapUsed;
  mix.release();
  return (after - before) / blocks;
}

function meterSpeed(block: StereoBlock): number {
  const meter = new Meter(48000);
  const seconds = 60;
  const begin = performance.now();
  for (let i = 0; i < (seconds * 48000) / BLOCK; i++) meter.push(block.left.ptr, block.right.ptr, BLOCK);
  const speed = seconds / ((performance.now() - begin) / 1000);
  meter.release();
  return speed;
}

function overviewSpeed(block: StereoBlock): number {
  const out = new StereoBlock(BLOCK);
  const blocks = 20000;
  const begin = performance.now();
  for (let i = 0; i < blocks; i++) kernels.overview(block.left.ptr, 0, 1, BLOCK, 256, out.left.ptr);
  const speed = (blocks * BLOCK) / 48000 / ((performance.now() - begin) / 1000);
  out.release();
  return speed;
}

const [project] = await listProjects();
if (!project) throw new Error("The demo's project is not there.");
const { document } = await projectState(project.id);
const doc = allLive(Document.fromJson(document));
const files = await filesOf(
  recordingsByName(doc).map((r) => r.id),
  doc.sampleRate,
  (id) => id
);
const source = new FileSource(files, doc.sampleRate);
const block = new StereoBlock(BLOCK);
mixOnce(doc, source, block);
const runs = Array.from({ length: 7 }, () => mixOnce(doc, source, block));
row("mix of the demo, all effects live, one core", median(runs), "× real time", 20);
row(
  "heap left behind by a block in the steady state",
  allocation(doc, source, block),
  "bytes",
  undefined,
  64
);
meterSpeed(block);
row(
  "loudness, range and true peak",
  median(Array.from({ length: 7 }, () => meterSpeed(block))),
  "× real time"
);
row("waveform overview", median(Array.from({ length: 7 }, () => overviewSpeed(block))), "× real time");
source.close();
await closeDatabase();
