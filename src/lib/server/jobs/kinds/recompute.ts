// An earlier process of a clip is changed: everything from there on is computed again, and the clip goes over to what comes out.
import path from "node:path";
import { z } from "zod";
import { newRecomputeSchema } from "$lib/api/processes";
import { renderMatches } from "$lib/core/session/clipState";
import { asOne, type SingleCommand } from "$lib/core/session/commands";
import type { Document } from "$lib/core/session/document";
import { recordingsOf } from "$lib/core/effects/registry";
import { findClip, type ResolvedClip } from "$lib/core/session/lookup";
import { newClip } from "$lib/core/session/make";
import { stepsOfOwner } from "$lib/core/session/owners";
import { historyOf, recomputed, type Stage } from "$lib/core/session/processes";
import type { Recording } from "$lib/core/session/schema";
import { config } from "../../config";
import { UserFault } from "../../faults";
import { MediaStore } from "../../media/store";
import { audioIdOf } from "../../media/paths";
import { filesOf, recordingName, recordingsOfClips } from "../../services/recordings";
import { loadProject } from "../../services/projects";
import type { RecomputeResult, RecomputeStage } from "../tasks/task";
import { jobKind } from "./kind";
import { renderCommands, renderedRecording } from "./render";

const order = newRecomputeSchema.extend({ kind: z.literal("recompute") });
type Order = z.infer<typeof order>;

interface Work {
  readonly clip: ResolvedClip;
  readonly stages: readonly RecomputeStage[];
  /** What the recordings that are made anew were called, in the order of the stages. A stage more is the clip's own render. */
  readonly names: readonly string[];
}

/** A stage as a clip that is rendered; its source is what the stage before makes, but for the first. */
function stageWork(document: Document, stage: Stage, first: boolean): RecomputeStage {
  const made = document.get("recordings", stage.madeId);
  const { window, making } = made?.provenance ?? {};
  if (!made || !window) throw new UserFault(410, "A recording of the history is no longer in the project.");
  const inside = making?.window ?? { offset: Math.max(0, window.offset), length: Math.max(1, window.length) };
  const source = document.get("recordings", stage.recordingId);
  const clip = newClip(
    "stage",
    "stage",
    { id: stage.recordingId, name: made.name, frames: source?.frames ?? 0 },
    0,
    inside
  );
  const steps = stage.steps.map((step, i) => ({ ...step, id: `stage-${i}` }));
  const rung = making?.rung;
  return {
    sourceIsBefore: !first,
    handleFrames: making?.handles ?? Math.max(0, inside.offset - window.offset),
    frames: window.length,
    clip: {
      ...clip,
      ...(making?.heard ? { heard: making.heard } : {}),
      ...(rung ? { ringOut: rung.ringOut, fadeOut: rung.fadeOut } : {}),
      recordingId: stage.recordingId,
      recordingFrames: source?.frames ?? 0,
      recordingSteps: steps.slice(0, stage.below),
      steps: steps.slice(stage.below)
    }
  };
}

/** @throws UserFault with why it cannot be done */
function workOf(document: Document, { clipId, changes, own: chain }: Order): Work {
  const clip = findClip(document, clipId)?.clip;
  if (!clip) throw new UserFault(404, "The clip is no longer there.");
  const stages = recomputed(historyOf(document, clip), changes);
  if (typeof stages === "string") throw new UserFault(422, stages);
  const names = stages.map(
    ({ madeId }) => document.get("recordings", madeId)?.name.replace(/ \d+$/, "") ?? ""
  );
  const works = stages.map((stage, i) => stageWork(document, stage, i === 0));
  // With a changed chain its render matches no more.
  if (chain || !clip.render || !renderMatches(clip)) return { clip, stages: works, names };
  const head = clip.offset - clip.render.origin;
  const own = { ...clip, render: null, steps: clip.steps.slice(0, clip.render.steps.length) };
  return {
    clip,
    stages: [
      ...works,
      { sourceIsBefore: true, handleFrames: Math.max(0, head), frames: clip.render.frames, clip: own }
    ],
    names
  };
}

/** What becomes of the clip's own chain. */
function chainCommands(
  document: Document,
  { id, chain }: ResolvedClip,
  own: Order["own"],
  jobId: string
): SingleCommand[] {
  if (!own) return [];
  const owner = { table: "clips", id } as const;
  const steps = stepsOfOwner(document, owner);
  const leaving = steps.filter((step) => own.remove.includes(step.id));
  const first = steps.find((step) => !own.remove.includes(step.id));
  return [
    ...leaving.map((step) => ({ type: "step.remove" as const, owner, stepId: step.id })),
    ...own.add.map((step, i) => ({
      type: "step.add" as const,
      owner,
      chainId: chain ?? jobId,
      step: { ...step, id: `${jobId}-${i}` },
      before: first?.id ?? null
    }))
  ];
}

export const recomputing = jobKind({
  kind: "recompute",
  order,
  resumes: true,
  fault: (_order, fault) => `The history was not computed again: ${fault}.`,
  async room(wanted, { projectId }) {
    const { document } = await loadProject(projectId);
    const { clip, stages } = workOf(document, wanted);
    const bytes = stages.reduce((sum, { frames }) => sum + frames * 8, 0);
    return { bytes, what: `The history of "${clip.name}" was not computed again` };
  },
  async prepare(wanted, { projectId, scratch }) {
    const { document } = await loadProject(projectId);
    const { stages } = workOf(document, wanted);
    // What a stage before makes is not read from the store.
    const ids = stages.flatMap(({ clip, sourceIsBefore }) =>
      sourceIsBefore
        ? [...clip.steps, ...clip.recordingSteps].flatMap(recordingsOf)
        : recordingsOfClips([clip])
    );
    return {
      kind: "recompute",
      dataFolder: config.dataFolder,
      scratch,
      stages,
      sampleRate: document.sampleRate,
      files: await filesOf([...new Set(ids)], document.sampleRate, (id) => recordingName(document, id))
    };
  },
  async complete(wanted, result, { projectId, scratch, jobId }) {
    const { stages: made } = result as RecomputeResult;
    const { document } = await loadProject(projectId);
    const { clip, names, stages } = workOf(document, wanted);
    const store = new MediaStore(config.dataFolder);
    for (const { hash, file } of made) store.adopt(path.join(scratch, file), hash);
    store.adoptCaches(scratch);
    const commands: SingleCommand[] = [];
    const recordings: Recording[] = [];
    // Names and descent count on what the stages before have made.
    let now = document;
    stages.forEach(({ clip: rendered, handleFrames }, i) => {
      const one = made[i];
      if (!one) throw new Error("A stage of the history made nothing.");
      const recordingId = recordings[i - 1]?.id ?? rendered.recordingId;
      const facts = { ...one, handles: handleFrames };
      const recording = renderedRecording(now, { ...rendered, recordingId }, facts, names[i] ?? null);
      recordings.push(recording);
      if (i < names.length) {
        if (!now.get("recordings", recording.id)) {
          commands.push({ type: "recording.add", recording });
          now = now.with([{ table: "recordings", id: recording.id, before: null, after: recording }]);
        }
        if (i === names.length - 1)
          commands.push({ type: "clip.source", clipId: clip.id, recordingId: recording.id });
        return;
      }
      const { render, after } = one;
      commands.push(
        ...renderCommands(document, [clip.id], { recording, render, lufs: after.integratedLufs }, jobId)
      );
    });
    commands.push(...chainCommands(document, clip, wanted.own, jobId));
    return {
      recordings: recordings.map(({ media, sampleRate, channels, frames }) => ({
        hash: media ?? "",
        sampleRate,
        channels,
        frames,
        kind: "render" as const
      })),
      command: asOne(commands, document, `change the history of ${clip.name}`),
      view: { clipId: clip.id, recordings: recordings.map(({ id }) => audioIdOf(id)) }
    };
  }
});
