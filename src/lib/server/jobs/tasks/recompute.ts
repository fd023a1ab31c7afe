// Stages of a history, one after the other: each renders what the one before made.
import path from "node:path";
import type { RecomputeResult, RecomputeTask, RenderResult, Tick } from "./task";
import { renderTask } from "./renderClip";

export function recompute(task: RecomputeTask, tick: Tick): RecomputeResult {
  const made: RenderResult[] = [];
  const { stages, ...base } = task;
  stages.forEach((stage, i) => {
    const before = stage.sourceIsBefore ? made[i - 1] : undefined;
    const id = "made";
    const clip = before
      ? { ...stage.clip, recordingId: id, recordingFrames: before.render.frames }
      : stage.clip;
    const files = before ? { ...base.files, [id]: path.join(base.scratch, before.file) } : base.files;
    const name = `stage-${i}.wav`;
    const window = clip.offset + clip.length;
    const head = clip.ringOut ? 0 : Math.min(stage.handleFrames, clip.offset);
    const after = clip.ringOut ? 0 : Math.max(0, Math.min(stage.handleFrames, clip.recordingFrames - window));
    const result = renderTask(
      {
        ...base,
        kind: "render",
        clip,
        files,
        name,
        recordingFrames: clip.recordingFrames,
        handleFrames: stage.handleFrames,
        tailFrames: Math.max(0, stage.frames - head - clip.length - after)
      },
      (share) => tick((i + share) / stages.length)
    );
    made.push(result);
  });
  return { stages: made };
}
