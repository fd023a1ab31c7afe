import path from "node:path";
import { z } from "zod";
import { effectOf } from "$lib/core/effects/registry";
import { findClip, type ResolvedClip } from "$lib/core/session/lookup";
import { newRecording } from "$lib/core/session/make";
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
  handleSeconds: z.number(),
  tail: z.union([z.literal("auto"), z.number()])
});

/** The clip without an older render: what the chain alone makes of it. */
function bare(clip: ResolvedClip): ResolvedClip {
  return { ...clip, render: null };
}

/** A clip's chain becomes a new recording. */
export const rendering = jobKind({
  kind: "render",
  order,
  resumes: true,
  fault: ({ clip }, fault) => `"${clip.name}" was not rendered: ${fault}.`,
  async room({ clip, handleSeconds, tail }, { projectId }) {
    const { sampleRate } = (await loadProject(projectId)).document;
    const seconds = 2 * handleSeconds + (tail === "auto" ? 0 : tail);
    return {
      bytes: (clip.length + Math.round(seconds * sampleRate)) * 8,
      what: `"${clip.name}" was not rendered`
    };
  },
  async prepare({ clip, handleSeconds, tail }, { projectId, scratch }) {
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
      sampleRate,
      recordingFrames: recording.frames,
      handleFrames: frames(handleSeconds),
      tailFrames: tail === "auto" ? "auto" : frames(tail),
      files: await filesOf(ids, sampleRate, (id) => recordingName(document, id))
    };
  },
  async complete({ clip }, result, { projectId, scratch }) {
    const { hash, file, render } = result as RenderResult;
    const { document } = await loadProject(projectId);
    const store = new MediaStore(config.dataFolder);
    store.adopt(path.join(scratch, file), hash);
    store.adoptCaches(scratch);
    const id = recordingIdOf(hash);
    const { sampleRate } = document;
    const made = { sampleRate, channels: 2, frames: render.frames, kind: "render" as const };
    const names = render.steps.filter((s) => s.on).map((s) => effectOf(s.effect).name);
    const from = document.get("recordings", clip.recordingId)?.name ?? clip.name;
    const recording = newRecording(
      id,
      { ...made, name: `${clip.name}, rendered`.slice(0, 120), media: hash },
      {
        text: `${from}: ${names.join(", ")}`.slice(0, 400),
        source: clip.recordingId,
        window: { offset: render.origin, length: render.frames },
        steps: render.steps
      }
    );
    return {
      recording: { hash, ...made },
      // Gone meanwhile: the render has no one to stand for.
      command: findClip(document, clip.id)
        ? { type: "clip.render", clipId: clip.id, recording, render: { ...render, recordingId: id } }
        : undefined,
      view: { clipId: clip.id, recordingId: id }
    };
  }
});
