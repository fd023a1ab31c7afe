// What the worker threads are asked to do, and what they answer. Plain data only.
import type { MeasurementJson } from "$lib/core/measure/json";
import type { DocumentJson } from "$lib/core/session/document";
import type { ResolvedClip } from "$lib/core/session/lookup";
import type { Render } from "$lib/core/session/schema";
import type { OutputFormat } from "$lib/core/formats/wavWriter";
import type { RecordingFiles } from "../../media/fileSource";
import type { FileState } from "../../media/store";

interface TaskBase {
  readonly dataFolder: string;
  /** Folder of this job alone; removed afterwards. */
  readonly scratch: string;
}

export interface ImportTask extends TaskBase {
  readonly kind: "import";
  readonly file: string;
  readonly sampleRate: number;
}

export interface ImportResult {
  readonly hash: string;
  readonly frames: number;
  readonly fileFrames: number;
  readonly channels: number;
  readonly sampleRate: number;
  /** What the store had of this content before. */
  readonly before: FileState;
}

export interface RenderTask extends TaskBase {
  readonly kind: "render";
  readonly clip: ResolvedClip;
  readonly sampleRate: number;
  readonly recordingFrames: number;
  readonly handleFrames: number;
  readonly tailFrames: number | "auto";
  readonly files: RecordingFiles;
}

export interface RenderResult {
  readonly hash: string;
  /** Name of the file in the job's folder. */
  readonly file: string;
  readonly render: Render;
}

export interface MeasureTask extends TaskBase {
  readonly kind: "measure";
  readonly clip: ResolvedClip;
  readonly sampleRate: number;
  readonly files: RecordingFiles;
}

export interface MeasureResult {
  /** The clip's window of the recording, untreated. */
  readonly untreated: MeasurementJson;
  /** With chain, gain and fades. */
  readonly treated: MeasurementJson;
}

export interface ExportTask extends TaskBase {
  readonly kind: "export";
  readonly document: DocumentJson;
  readonly from: number;
  readonly to: number;
  readonly format: OutputFormat;
  readonly dither: boolean;
  readonly files: RecordingFiles;
}

export interface ExportResult {
  /** Name of the file in the job's folder. */
  readonly file: string;
  readonly frames: number;
  readonly measurement: MeasurementJson;
}

/** Compares a recording's file with its hash. */
export interface VerifyTask extends TaskBase {
  readonly kind: "verify";
  readonly hash: string;
}

export interface VerifyResult {
  readonly state: FileState;
}

/** Brings back a recording's caches (conformed file, overview) that are missing. */
export interface EnsureTask extends TaskBase {
  readonly kind: "ensure";
  readonly hash: string;
  readonly sampleRate: number;
}

export type Task = EnsureTask | VerifyTask | ImportTask | RenderTask | MeasureTask | ExportTask;
export type TaskResult =
  { readonly frames: number } | VerifyResult | ImportResult | RenderResult | MeasureResult | ExportResult;

/** Reports the share that is done, 0 to 1. */
export type Tick = (share: number) => void;
