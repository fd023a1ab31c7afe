// Running a task that hears sound for a page, and what such a task is given.
import { randomUUID } from "node:crypto";
import { mkdirSync, rmSync } from "node:fs";
import type { AnalysisJson } from "$lib/api/listening";
import { askedBy, type SoundPart } from "$lib/core/render/soundPart";
import type { Document } from "$lib/core/session/document";
import { config } from "../config";
import { UserFault } from "../faults";
import { runTask } from "../jobs/pool";
import type { AnalyseTask, ExamineTask, LearnTask, MonoTask, RingTask, TaskResult } from "../jobs/tasks/task";
import { jobFolder } from "../media/paths";
import { filesOf, recordingName } from "./recordings";

export type Tell = (share: number, soFar?: AnalysisJson) => void;
export type Bare<T> = Omit<T, "dataFolder" | "scratch">;
type Work = Bare<LearnTask> | Bare<AnalyseTask> | Bare<ExamineTask> | Bare<MonoTask> | Bare<RingTask>;

/** Runs a task on a worker thread. @throws UserFault */
export async function run(work: Work, signal: AbortSignal, tell: Tell): Promise<TaskResult> {
  const scratch = jobFolder(config.dataFolder, `listen-${randomUUID()}`);
  mkdirSync(scratch, { recursive: true });
  try {
    const task = { ...work, dataFolder: config.dataFolder, scratch };
    const outcome = await runTask(task, signal, (share, soFar) =>
      tell(share, soFar as AnalysisJson | undefined)
    );
    if ("result" in outcome) return outcome.result;
    if ("sentence" in outcome) throw new UserFault(507, outcome.sentence);
    if ("fault" in outcome) throw new UserFault(410, `The sound ${outcome.fault}.`);
    throw new Error(outcome.error);
  } finally {
    rmSync(scratch, { recursive: true, force: true });
  }
}

export async function filesOfPart(document: Document, part: SoundPart) {
  const ids = [...new Set([part.recordingId, ...askedBy(part)])];
  return filesOf(ids, document.sampleRate, (id) => recordingName(document, id));
}

/** @throws UserFault when a part is none of the project's */
export function needPart(document: Document, part: SoundPart): void {
  for (const { recordingId, offset, length } of [part, ...(part.under ? [part.under] : [])]) {
    const recording = document.get("recordings", recordingId);
    if (!recording) throw new UserFault(404, "The recording is no longer in this project.");
    if (offset < 0 || offset + length > recording.frames)
      throw new UserFault(422, `"${recording.name}" has no sound there.`);
  }
}
