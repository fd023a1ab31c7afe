import path from "node:path";
import { z } from "zod";
import { asOne, type SingleCommand } from "$lib/core/session/commands";
import type { Document } from "$lib/core/session/document";
import { findClip, type ResolvedClip } from "$lib/core/session/lookup";
import { newRecording } from "$lib/core/session/make";
import { numbered, stepsText } from "$lib/core/session/renderNames";
import type { Recording, Render } from "$lib/core/session/schema";
import { RING_MOST_SECONDS } from "$lib/core/render/ringOut";
import { config } from "../../config";
import { UserFault } from "../../faults";
import { MediaStore } from "../../media/store";
import { recordingIdOf } from "../../media/paths";
import { filesOf, recordingName, recordingsOfClips } from "../../services/recordings";
import { loadProject } from "../../services/projects";
import type { RenderResult } from "../tasks/task";
import { jobKind } from "./kind";
import { storedClip } from "./storedClip";

const order = z.object({
  kind: z.literal("render"),
  clip: storedClip,
  /** Ids of other clips that show the same stretch, treated alike. */
  also: z.array(z.string()).default([]),
  upTo: z.number().nullable().default(null),
  handles: z.union([z.literal("all"), z.number()]).default(2),
  tail: z.union([z.literal("auto"), z.number()]),
  name: z.string().nullable().default(null)
});

/** Steps that the name of a recording tells. */
const NAMED_STEPS = 3;

/** The clip without an older render: what the chain alone makes of it. */
function bare(clip: ResolvedClip): ResolvedClip {
  return { ...clip, render: null };
}

/** The entity of a recording that was made of a clip. `name` null: after its source and its steps. */
export function renderedRecording(
  document: Document,
  clip: ResolvedClip,
  { hash, render, handles }: Pick<RenderResult, "hash" | "render"> & { readonly handles: number },
  name: string | null
): Recording {
  const from = document.get("recordings", clip.recordingId)?.name ?? clip.name;
  const done = stepsText(render.steps);
  const facts = {
    sampleRate: document.sampleRate,
    channels: 2,
    frames: render.frames,
    kind: "render" as const,
    media: hash,
    name: numbered(document, name ?? `${from}, ${stepsText(render.steps, NAMED_STEPS)}`)
  };
  return newRecording(recordingIdOf(hash), facts, {
    text: `${from}: ${done}`.slice(0, 400),
    source: clip.recordingId,
    window: { offset: render.origin, length: render.frames },
    steps: render.steps,
    ...(render.recordingSteps ? { recordingSteps: render.recordingSteps } : {}),
    making: {
      window: render.window,
      ...(render.heard ? { heard: render.heard } : {}),
      handles,
      ...(render.rung ? { rung: { ringOut: render.rung.ringOut, fadeOut: render.rung.fadeOut } } : {})
    }
  });
}

/** Frames that are kept on both sides, as far as the recording has them. */
function handleFrames(document: Document, clip: ResolvedClip, handles: number | "all"): number {
  const { sampleRate } = document;
  const whole = document.get("recordings", clip.recordingId)?.frames ?? clip.recordingFrames;
  return handles === "all" ? whole : Math.round(handles * sampleRate);
}

/** Commands by which clips go over to a render, those that are still there. */
export function renderCommands(
  document: Document,
  clipIds: readonly string[],
  made: { readonly recording: Recording; readonly render: Render; readonly lufs: number | null },
  jobId: string
): SingleCommand[] {
  const { recording, lufs } = made;
  const render = { ...made.render, recordingId: recording.id };
  const version = { id: `v-${jobId}`, name: recording.name, made: new Date().toISOString(), lufs };
  return clipIds
    .filter((clipId) => findClip(document, clipId))
    .map((clipId) => ({ type: "clip.render", clipId, recording, render, version }));
}

/** A clip's chain, or its first steps, become a new recording. */
export const rendering = jobKind({
  kind: "render",
  order,
  resumes: true,
  fault: ({ clip }, fault) => `"${clip.name}" was not rendered: ${fault}.`,
  async room({ clip, handles, tail }, { projectId }) {
    const { sampleRate } = (await loadProject(projectId)).document;
    const after = Math.max(tail === "auto" ? 0 : tail, clip.ringOut ? RING_MOST_SECONDS : 0);
    const sides =
      handles === "all" ? Math.max(0, clip.recordingFrames - clip.length) : 2 * handles * sampleRate;
    return {
      bytes: (clip.length + Math.round(sides + after * sampleRate)) * 8,
      what: `"${clip.name}" was not rendered`
    };
  },
  async prepare({ clip, upTo, handles, tail }, { projectId, scratch }) {
    const { document } = await loadProject(projectId);
    const { sampleRate } = document;
    const recording = document.get("recordings", clip.recordingId);
    if (!recording)
      throw new UserFault(410, `"${clip.name}" was not rendered: its recording is no longer in the project.`);
    const frames = (s: number) => Math.round(s * sampleRate);
    const ids = recordingsOfClips([bare(clip)]);
    return {
      kind: "render",
      dataFolder: config.dataFolder,
      scratch,
      clip: bare(clip),
      upTo: upTo ?? undefined,
      sampleRate,
      recordingFrames: recording.frames,
      handleFrames: handleFrames(document, clip, handles),
      tailFrames: tail === "auto" ? "auto" : frames(tail),
      files: await filesOf(ids, sampleRate, (id) => recordingName(document, id))
    };
  },
  async complete({ clip, also, name, handles }, result, { projectId, scratch, jobId }) {
    const { hash, file, render, after } = result as RenderResult;
    const { document } = await loadProject(projectId);
    const store = new MediaStore(config.dataFolder);
    store.adopt(path.join(scratch, file), hash);
    store.adoptCaches(scratch);
    const made = { hash, render, handles: handleFrames(document, clip, handles) };
    const recording = renderedRecording(document, clip, made, name);
    const { sampleRate, channels, frames } = recording;
    // Gone meanwhile: the render has no one to stand for.
    const commands = renderCommands(
      document,
      [clip.id, ...also],
      { recording, render, lufs: after.integratedLufs },
      jobId
    );
    return {
      recording: { hash, sampleRate, channels, frames, kind: "render" },
      command: asOne(commands, document, `render ${commands.length} clips`),
      view: { clipId: clip.id, recordingId: recording.id, name: recording.name }
    };
  }
});
