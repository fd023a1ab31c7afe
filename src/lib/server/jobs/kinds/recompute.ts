// An earlier process of a clip is changed: everything from there on is computed again, and the clip goes over to what comes out.
import path from "node:path";
import { z } from "zod";
import { newRecomputeSchema } from "$lib/api/processes";
import { renderMatches } from "$lib/core/session/clipState";
import { asOne, type SingleCommand } from "$lib/core/session/commands";
import type { Document } from "$lib/core/session/document";
import { findClip, type ResolvedClip } from "$lib/core/session/lookup";
import { newClip } from "$lib/core/session/make";
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
  /** The recordings that are made anew, as they were, in the order of the stages; the last may be the clip's own render. */
  readonly olds: readonly (Recording | null)[];
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
      ...(rung ? { ringOut: rung.ringOut, fadeOut: rung.fadeOut } : {}),
      recordingId: stage.recordingId,
      recordingFrames: source?.frames ?? 0,
      recordingSteps: steps.slice(0, stage.below),
      steps: steps.slice(stage.below)
    }
  };
}

/** @throws UserFault with why it cannot be done */
function workOf(document: Document, { clipId, changes }: Order): Work {
  const clip = findClip(document, clipId)?.clip;
  if (!clip) throw new UserFault(404, "The clip is no longer there.");
  const stages = recomputed(historyOf(document, clip), changes);
  if (typeof stages === "string") throw new UserFault(422, stages);
  const olds = stages.map(({ madeId }) => document.get("recordings", madeId) ?? null);
  const works = stages.map((stage, i) => stageWork(document, stage, i === 0));
  if (!clip.render || !renderMatches(clip)) return { clip, stages: works, olds };
  const head = clip.offset - clip.render.origin;
  const own = { ...clip, render: null, steps: clip.steps.slice(0, clip.render.steps.length) };
  return {
    clip,
    stages: [
      ...works,
      { sourceIsBefore: true, handleFrames: Math.max(0, head), frames: clip.render.frames, clip: own }
    ],
    olds: [...olds, null]
  };
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
    const made = new Set(wanted.changes.map(({ madeId }) => madeId));
    const ids = recordingsOfClips(stages.map(({ clip }) => clip)).filter(
      (id, _, all) => !made.has(id) || all[0] === id
    );
    return {
      kind: "recompute",
      dataFolder: config.dataFolder,
      scratch,
      stages,
      sampleRate: document.sampleRate,
      files: await filesOf(ids, document.sampleRate, (id) => recordingName(document, id))
    };
  },
  async complete(wanted, result, { projectId, scratch, jobId }) {
    const { stages: made } = result as RecomputeResult;
    const { document } = await loadProject(projectId);
    const { clip, olds, stages } = workOf(document, wanted);
    const store = new MediaStore(config.dataFolder);
    for (const { hash, file } of made) store.adopt(path.join(scratch, file), hash);
    store.adoptCaches(scratch);
    const commands: SingleCommand[] = [];
    const recordings: Recording[] = [];
    let now = document;
    made.forEach((one, i) => {
      const work = stages[i];
      if (!work) return;
      const source = recordings[i - 1]?.id ?? work.clip.recordingId;
      const name = olds[i]?.name.replace(/ \d+$/, "") ?? null;
      const made2 = { ...one, handles: work.handleFrames };
      const recording = renderedRecording(now, { ...work.clip, recordingId: source }, made2, name);
      recordings.push(recording);
      if (!now.get("recordings", recording.id)) {
        if (i < olds.length && olds[i] !== null) commands.push({ type: "recording.add", recording });
        now = now.with([{ table: "recordings", id: recording.id, before: null, after: recording }]);
      }
    });
    const chained = olds.filter((old) => old !== null).length;
    const last = recordings[chained - 1];
    if (!last) throw new UserFault(422, "Nothing was computed.");
    commands.push({ type: "clip.source", clipId: clip.id, recordingId: last.id });
    const [own, ownMade] = [recordings[chained], made[chained]];
    if (own && ownMade) {
      const render = { recording: own, render: ownMade.render, lufs: ownMade.lufs };
      commands.push(...renderCommands(document, [clip.id], render, jobId));
    }
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
