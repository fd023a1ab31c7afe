// The jobs of a batch: one for each sound, and one that puts all results into the project as one edit.
import path from "node:path";
import { z } from "zod";
import type { BatchLevels } from "$lib/api/batches";
import { needsProfile } from "$lib/core/session/batch";
import type { Document } from "$lib/core/session/document";
import { resolveClip, type ResolvedClip } from "$lib/core/session/lookup";
import { newClip } from "$lib/core/session/make";
import {
  recordingSchema,
  renderSchema,
  type Recording,
  type RecipeStep,
  type Step
} from "$lib/core/session/schema";
import { stepsOfChain } from "$lib/core/session/owners";
import { batchCommand, type BatchResult } from "$lib/core/session/batch";
import { config } from "../../config";
import { database } from "../../db/connection";
import { UserFault } from "../../faults";
import { MediaStore } from "../../media/store";
import { readKept, type KeptBatch } from "../../batches/kept";
import { endIfAll } from "../../batches/end";
import { filesOf, recordingName, recordingsOfClips } from "../../services/recordings";
import { loadProject } from "../../services/projects";
import type { RenderResult } from "../tasks/task";
import { jobKind } from "./kind";
import { renderedRecording } from "./render";

const order = z.object({ kind: z.literal("batch"), batch: z.string(), item: z.number().int() });

/** What a sound's job leaves for the end of the batch and for the report. */
export const batchedSchema = z.object({
  batch: z.string(),
  recording: recordingSchema,
  render: renderSchema,
  before: z.custom<BatchLevels>(),
  after: z.custom<BatchLevels>(),
  steps: z.array(z.custom<RecipeStep>())
});
export type Batched = z.infer<typeof batchedSchema>;

function itemOf(batch: KeptBatch, index: number) {
  const item = batch.items[index];
  if (!item) throw new UserFault(410, "The batch has no such sound.");
  return item;
}

const withIds = (steps: readonly RecipeStep[]): Step[] =>
  steps.map((step, i) => ({ ...step, id: `batch-${i}` }));

/** The sound of an item as a clip with the chain of the batch: of a recording all of it. */
function subjectOf(document: Document, batch: KeptBatch, index: number): ResolvedClip {
  const { kind, id, name, ground } = itemOf(batch, index);
  if (kind === "clip") {
    const clip = document.get("clips", id);
    if (!clip) throw new UserFault(410, `"${name}" was not treated: the clip is no longer there.`);
    const own = batch.mode === "append" ? ground : [];
    const steps = withIds([...own, ...batch.steps]);
    return { ...resolveClip(document, clip), render: null, steps };
  }
  const recording = document.get("recordings", id);
  if (!recording)
    throw new UserFault(410, `"${name}" was not treated: the recording is no longer in the project.`);
  const clip = newClip("batch", "batch", { id, name, frames: recording.frames }, 0);
  const bare = {
    ...clip,
    recordingId: id,
    recordingFrames: recording.frames,
    recordingSteps: stepsOfChain(document, recording.chain)
  };
  return { ...bare, steps: withIds(batch.steps) };
}

/** One sound of a batch is treated, measured before and after, and becomes a recording; the project changes when all are done. */
export const batching = jobKind({
  kind: "batch",
  order,
  resumes: true,
  fault: ({ batch, item }, fault) => `"${itemOf(readKept(batch), item).name}" was not treated: ${fault}.`,
  async room({ batch, item }, { projectId }) {
    const kept = readKept(batch);
    const { document } = await loadProject(projectId);
    const clip = subjectOf(document, kept, item);
    return { bytes: clip.length * 8, what: `"${clip.name}" was not treated` };
  },
  async prepare({ batch, item }, { projectId, scratch }) {
    const { document } = await loadProject(projectId);
    const clip = subjectOf(document, readKept(batch), item);
    if (clip.length === 0) throw new UserFault(422, `"${clip.name}" was not treated: it has no sound.`);
    const missing = needsProfile(clip.steps);
    if (missing) throw new UserFault(422, `"${clip.name}" was not treated: ${missing}`);
    return {
      kind: "render",
      dataFolder: config.dataFolder,
      scratch,
      clip,
      measures: true,
      sampleRate: document.sampleRate,
      recordingFrames: clip.recordingFrames,
      handleFrames: 0,
      tailFrames: 0,
      files: await filesOf(recordingsOfClips([clip]), document.sampleRate, (id) =>
        recordingName(document, id)
      )
    };
  },
  async complete({ batch, item }, result, { projectId, scratch }) {
    const made = result as RenderResult;
    const kept = readKept(batch);
    const { document } = await loadProject(projectId);
    const store = new MediaStore(config.dataFolder);
    store.adopt(path.join(scratch, made.file), made.hash);
    store.adoptCaches(scratch);
    const clip = subjectOf(document, kept, item);
    const recording = renderedRecording(
      document,
      clip,
      { ...made, handles: 0 },
      `${clip.name}, ${kept.name}`.slice(0, 100)
    );
    const { sampleRate, channels, frames } = recording;
    const view: Batched = {
      batch,
      recording: { ...recording, folder: `Batch/${kept.name}` },
      render: { ...made.render, recordingId: recording.id },
      before: made.before ?? made.after,
      after: made.after,
      steps: made.render.steps
    };
    return { recording: { hash: made.hash, sampleRate, channels, frames, kind: "render" }, view };
  },
  clear: ({ batch }) => endIfAll(batch)
});

/** What the sounds of a batch came to, in their order; those that failed are left out. */
async function resultsOf(batch: KeptBatch): Promise<BatchResult[]> {
  const { models } = await database();
  const rows = await models.Job.findAll({
    where: { id: batch.items.map((item) => item.jobId), state: "done" }
  });
  const results = new Map(rows.map((row) => [row.id, row.result]));
  return batch.items.flatMap(({ jobId, kind, id, ground }) => {
    const text = results.get(jobId);
    if (text === null || text === undefined) return [];
    const { recording, render, after, steps } = batchedSchema.parse(JSON.parse(text));
    return {
      kind,
      id,
      jobId,
      recording: recording as Recording,
      render,
      lufs: after.integratedLufs,
      steps,
      ground
    };
  });
}

/** All sounds of a batch have ended: what they came to becomes one edit. */
export const batchEnding = jobKind({
  kind: "batchEnd",
  order: z.object({ kind: z.literal("batchEnd"), batch: z.string() }),
  resumes: true,
  fault: (_order, fault) => `The batch was not put into the project: ${fault}.`,
  room: ({ batch }) => Promise.resolve({ bytes: 0, what: readKept(batch).name }),
  prepare: (_order, { scratch }) =>
    Promise.resolve({ kind: "nothing", dataFolder: config.dataFolder, scratch }),
  async complete({ batch }, _result, { projectId }) {
    const kept = readKept(batch);
    const { document } = await loadProject(projectId);
    const results = await resultsOf(kept);
    return { command: batchCommand(document, kept, results), view: { batch, sounds: results.length } };
  }
});
