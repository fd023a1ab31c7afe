// For each kind of job: what a worker is to do, and what its result does to the project.
import { existsSync, mkdirSync, rmSync, statSync } from "node:fs";
import path from "node:path";
import { bytesPerSample } from "$lib/core/formats/wavWriter";
import { findClip, findRecording } from "$lib/core/session/document";
import { faultSentence } from "$lib/core/formats/fault";
import type { Clip, Document } from "$lib/core/session/schema";
import type { NewJob } from "$lib/api/types";
import { config } from "../config";
import { database } from "../db/connection";
import type { JobKind } from "../db/models";
import { UserFault } from "../faults";
import { exportsFolder, recordingIdOf } from "../media/paths";
import { editNewest } from "../services/edits";
import { loadProject } from "../services/projects";
import { filesOf, registerRecording } from "../services/recordings";
import { needRoom } from "../services/space";
import type {
  ExportResult,
  ExportTask,
  ImportResult,
  ImportTask,
  MeasureTask,
  RenderResult,
  RenderTask,
  Task,
  TaskResult
} from "./tasks/task";

/** A job's stored order: everything that is needed to run it, also after a restart. */
export type Payload =
  | { readonly kind: "import"; readonly uploadId: string; readonly fileName: string }
  | {
      readonly kind: "render";
      readonly clip: Clip;
      readonly handleSeconds: number;
      readonly tail: number | "auto";
    }
  | { readonly kind: "measure"; readonly clip: Clip }
  | (Extract<NewJob, { kind: "export" }> & { readonly document: Document });

export interface JobContext {
  readonly jobId: string;
  readonly projectId: string;
  readonly scratch: string;
}

interface Handler {
  /** Sentence around a file's or clip's fault. */
  fault(payload: Payload, fault: string): string;
  prepare(payload: Payload, context: JobContext): Promise<Task>;
  /** Puts the result in place and returns what the page is told. */
  complete(payload: Payload, result: TaskResult, context: JobContext): Promise<unknown>;
  /** Removes what the job leaves when it fails or is cancelled. */
  discard?(payload: Payload, context: JobContext): void;
}

type Of<K extends JobKind> = Extract<Payload, { kind: K }>;

async function documentOf(projectId: string): Promise<Document> {
  const { models } = await database();
  return (await loadProject(models, projectId)).document;
}

export function uploadPath(uploadId: string): string {
  return path.join(config.dataFolder, "uploads", path.basename(uploadId));
}

function removeUpload(uploadId: string): void {
  rmSync(uploadPath(uploadId), { force: true });
  rmSync(`${uploadPath(uploadId)}.json`, { force: true });
}

export function exportPath(jobId: string): string {
  return path.join(exportsFolder(config.dataFolder), `${path.basename(jobId)}.wav`);
}

/** "Engineer 2.wav" → "Engineer 2". */
export function nameOfFile(fileName: string): string {
  const base = fileName.split(/[\\/]/).pop() ?? fileName;
  return (
    base
      .replace(/\.[A-Za-z0-9]{1,5}$/, "")
      .trim()
      .slice(0, 120) || "Recording"
  );
}

const importing: Handler = {
  fault: (payload, fault) => faultSentence((payload as Of<"import">).fileName, fault),
  async prepare(payload, { projectId, scratch }) {
    const { uploadId, fileName } = payload as Of<"import">;
    const file = uploadPath(uploadId);
    if (!existsSync(file)) throw new UserFault(410, faultSentence(fileName, "its upload is gone"));
    const doc = await documentOf(projectId);
    return {
      kind: "import",
      dataFolder: config.dataFolder,
      scratch,
      file,
      sampleRate: doc.sampleRate
    } satisfies ImportTask;
  },
  async complete(payload, result, { projectId }) {
    const { fileName, uploadId } = payload as Of<"import">;
    const { hash, frames, fileFrames, channels, sampleRate } = result as ImportResult;
    removeUpload(uploadId);
    const known = findRecording(await documentOf(projectId), recordingIdOf(hash));
    if (known)
      throw new UserFault(409, faultSentence(fileName, `the same sound is already here as "${known.name}"`));
    const id = await registerRecording({ hash, sampleRate, channels, frames: fileFrames, kind: "import" });
    const recording = {
      id,
      name: nameOfFile(fileName),
      frames,
      channels,
      sampleRate,
      kind: "import" as const,
      madeFrom: null
    };
    await editNewest(projectId, { type: "recording.add", recording });
    return { recordingId: id };
  },
  discard: (payload) => removeUpload((payload as Of<"import">).uploadId)
};

const rendering: Handler = {
  fault: (payload, fault) => `"${(payload as Of<"render">).clip.name}" was not rendered: ${fault}.`,
  async prepare(payload, { projectId, scratch }) {
    const { clip, handleSeconds, tail } = payload as Of<"render">;
    const doc = await documentOf(projectId);
    const recording = findRecording(doc, clip.recordingId);
    if (!recording)
      throw new UserFault(410, `"${clip.name}" was not rendered: its recording is no longer in the project.`);
    const frames = (s: number) => Math.round(s * doc.sampleRate);
    needRoom((clip.length + 2 * frames(handleSeconds)) * 8, `"${clip.name}" was not rendered`);
    return {
      kind: "render",
      dataFolder: config.dataFolder,
      scratch,
      clip,
      sampleRate: doc.sampleRate,
      recordingFrames: recording.frames,
      handleFrames: frames(handleSeconds),
      tailFrames: tail === "auto" ? "auto" : frames(tail),
      files: await filesOf(doc)
    } satisfies RenderTask;
  },
  async complete(payload, result, { projectId }) {
    const { clip } = payload as Of<"render">;
    const { hash, render } = result as RenderResult;
    const doc = await documentOf(projectId);
    const made = { sampleRate: doc.sampleRate, channels: 2, frames: render.frames, kind: "render" as const };
    const id = await registerRecording({ hash, ...made });
    const steps = render.steps.filter((s) => s.on).map((s) => s.effect);
    const recording = {
      id,
      name: `${clip.name}, rendered`.slice(0, 120),
      ...made,
      madeFrom: `${findRecording(doc, clip.recordingId)?.name ?? clip.name}: ${steps.join(", ")}`.slice(
        0,
        400
      )
    };
    await editNewest(projectId, {
      type: "clip.render",
      clipId: clip.id,
      recording,
      render: { ...render, recordingId: id }
    });
    return { clipId: clip.id, recordingId: id };
  }
};

const measuring: Handler = {
  fault: (payload, fault) => `"${(payload as Of<"measure">).clip.name}" was not measured: ${fault}.`,
  async prepare(payload, { projectId, scratch }) {
    const { clip } = payload as Of<"measure">;
    const doc = await documentOf(projectId);
    return {
      kind: "measure",
      dataFolder: config.dataFolder,
      scratch,
      clip,
      sampleRate: doc.sampleRate,
      files: await filesOf(doc)
    } satisfies MeasureTask;
  },
  complete: (_payload, result) => Promise.resolve(result)
};

const exporting: Handler = {
  fault: (_payload, fault) => `The mix was not exported: ${fault}.`,
  async prepare(payload, { jobId, scratch }) {
    const { document, from, to, format, dither } = payload as Of<"export">;
    needRoom((to - from) * 2 * bytesPerSample(format), "The mix was not exported");
    mkdirSync(exportsFolder(config.dataFolder), { recursive: true });
    const files = await filesOf(document);
    return {
      kind: "export",
      dataFolder: config.dataFolder,
      scratch,
      document,
      from,
      to,
      format,
      dither,
      files,
      target: exportPath(jobId)
    } satisfies ExportTask;
  },
  complete(payload, result, { jobId }) {
    const { document } = payload as Of<"export">;
    const { frames, measurement } = result as ExportResult;
    const fileName = `${document.name.replace(/[^\p{L}\p{N} ._-]/gu, "_")}.wav`;
    return Promise.resolve({ fileName, frames, measurement, bytes: statSync(exportPath(jobId)).size });
  },
  discard: (_payload, { jobId }) => rmSync(exportPath(jobId), { force: true })
};

export const handlers: Record<JobKind, Handler> = {
  import: importing,
  render: rendering,
  measure: measuring,
  export: exporting
};

/** The order for a job that a page asks for. @throws UserFault when it asks for what is not there */
export async function payloadOf(
  projectId: string,
  order: NewJob
): Promise<{ payload: Payload; title: string }> {
  const document = await documentOf(projectId);
  if (order.kind === "export") {
    if (order.to <= order.from) throw new UserFault(422, "The range to export is empty.");
    return { payload: { ...order, document }, title: `Export ${document.name}` };
  }
  const clip = findClip(document, order.clipId)?.clip;
  if (!clip) throw new UserFault(404, "The clip is no longer there.");
  if (order.kind === "measure") return { payload: { kind: "measure", clip }, title: `Measure ${clip.name}` };
  if (!clip.steps.some((s) => s.on))
    throw new UserFault(422, `"${clip.name}" has no step that is on: there is nothing to render.`);
  const { handleSeconds, tail } = order;
  return { payload: { kind: "render", clip, handleSeconds, tail }, title: `Render ${clip.name}` };
}
