// What the worker threads are asked to do, and what they answer. Plain data only.
import type { BatchLevels } from "$lib/api/batches";
import type { AnalysisJson, LessonJson } from "$lib/api/listening";
import type { Learnt } from "$lib/core/effects/description";
import type { DeliveryItem } from "$lib/core/delivery/items";
import type { DeliverySettings } from "$lib/core/delivery/settings";
import type { MeasurementJson } from "$lib/core/measure/json";
import type { Shape } from "$lib/core/render/clipAnalysis";
import type { Finding } from "$lib/core/measure/examine/finding";
import type { MonoView } from "$lib/core/measure/monoLook";
import type { Pictures } from "$lib/core/render/sheetMemory";
import type { SoundPart } from "$lib/core/render/soundPart";
import type { DocumentJson } from "$lib/core/session/document";
import type { ResolvedClip } from "$lib/core/session/lookup";
import type { Render } from "$lib/core/session/schema";
import type { OutputFormat } from "$lib/core/formats/wavWriter";
import type { UnpackedMedia } from "../../archive/readTimeline";
import type { VideoFile } from "../../delivery/intoVideo";
import type { Delivered } from "../../delivery/deliver";
import type { RecordingFiles } from "../../media/fileSource";
import type { BroughtIn } from "../../media/bringIn";
import type { ProbedSound } from "../../media/decode/probe";
import type { FileState } from "../../media/store";

interface TaskBase {
  readonly dataFolder: string;
  /** Folder of this job alone; removed afterwards. */
  readonly scratch: string;
}

export interface ImportTask extends TaskBase {
  readonly kind: "import";
  readonly file: string;
  readonly fileName: string;
  readonly sampleRate: number;
  /** The sound track to take; the default one when left out. */
  readonly stream?: number | undefined;
  /** Whether what can be read of a cut or damaged file will do. */
  readonly partial?: boolean | undefined;
  /** What it holds, where it is no WAV file; undefined: that is found out. */
  readonly sound?: ProbedSound | undefined;
}

export type ImportResult = BroughtIn;

export interface RenderTask extends TaskBase {
  readonly kind: "render";
  /** Name of the file in the job's folder; "render.wav" when left out. */
  readonly name?: string;
  readonly clip: ResolvedClip;
  readonly upTo?: number | undefined;
  /** Whether the untreated window is measured as well. */
  readonly measures?: boolean | undefined;
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
  /** Levels of that window before any chain, where they were asked for, and after it. */
  readonly before: BatchLevels | null;
  readonly after: BatchLevels;
}

/** One render of a history. */
export interface RecomputeStage {
  /** Whether it renders what the stage before makes, instead of a recording of the store. */
  readonly sourceIsBefore: boolean;
  readonly clip: ResolvedClip;
  readonly handleFrames: number;
  /** Frames of what it makes, with handles and tail. */
  readonly frames: number;
}

/** Stages of a clip's history are rendered one after the other. */
export interface RecomputeTask extends TaskBase {
  readonly kind: "recompute";
  readonly stages: readonly RecomputeStage[];
  readonly sampleRate: number;
  readonly files: RecordingFiles;
}

export interface RecomputeResult {
  readonly stages: readonly RenderResult[];
}

/** There is nothing to compute: its end is its result. */
export interface NothingTask extends TaskBase {
  readonly kind: "nothing";
}

/** A stretch of a document's mix becomes a recording. */
export interface BounceTask extends TaskBase {
  readonly kind: "bounce";
  readonly document: DocumentJson;
  readonly from: number;
  readonly to: number;
  readonly files: RecordingFiles;
}

export interface BounceResult {
  readonly hash: string;
  readonly file: string;
  readonly frames: number;
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

/** An item of a delivery becomes a file. */
export interface DeliverTask extends TaskBase {
  readonly kind: "deliver";
  readonly document: DocumentJson;
  readonly item: DeliveryItem;
  readonly settings: DeliverySettings;
  readonly files: RecordingFiles;
  readonly video: VideoFile | undefined;
  /** When it was ordered, ISO 8601. */
  readonly date: string;
}

export type DeliverResult = Omit<Delivered, "measurement"> & { readonly measurement: MeasurementJson };

/** A project archive is unpacked and checked. */
export interface UnpackTask extends TaskBase {
  readonly kind: "unpack";
  readonly file: string;
}

export type UnpackResult =
  | {
      readonly of: "project";
      readonly recordings: readonly {
        readonly hash: string;
        readonly sampleRate: number;
        readonly channels: number;
        readonly frames: number;
      }[];
      readonly sources: readonly string[];
    }
  | { readonly of: "timeline"; readonly media: readonly UnpackedMedia[]; readonly faults: readonly string[] };

/** A small copy of a video's picture. */
export interface PictureTask extends TaskBase {
  readonly kind: "picture";
  /** The video. */
  readonly file: string;
  /** Name of the copy in the job's folder. */
  readonly name: string;
  /** Length of the video. */
  readonly seconds: number;
}

/** What the steps of a part learn. */
export interface LearnTask extends TaskBase {
  readonly kind: "learn";
  readonly part: SoundPart;
  readonly sampleRate: number;
  readonly files: RecordingFiles;
}

/** A file with the sound behind a step, its frames as long as what is analysed. */
export interface PointFile {
  readonly file: string;
  /** Id of the step. */
  readonly after: string;
}

export interface AnalyseTask extends TaskBase {
  readonly kind: "analyse";
  readonly what:
    | {
        readonly part: SoundPart;
        readonly shape: Shape;
        /** The frames whose levels are measured; all when left out. */
        readonly within?: { readonly from: number; readonly to: number } | null | undefined;
      }
    | { readonly document: DocumentJson; readonly busId: string; readonly from: number; readonly to: number };
  readonly sampleRate: number;
  readonly bins: number;
  readonly files: RecordingFiles;
  readonly pictures?: Pictures | undefined;
  /** Places whose levels are known already: ids of steps, null for the one before the first. */
  readonly known: readonly (string | null)[];
  /** What is known to have been learnt, by `prePassKey`. */
  readonly lessons: Readonly<Record<string, readonly (Learnt["values"] | null)[]>>;
  /** Where it may begin, and where sound is to be kept for the next time. */
  readonly from?: PointFile | undefined;
  readonly keep?: PointFile | undefined;
}

/** A stretch of a sound that is listened to once. */
export interface HearOnceTask extends TaskBase {
  readonly what:
    | {
        readonly part: SoundPart;
        readonly within?: { readonly from: number; readonly to: number } | null | undefined;
      }
    | { readonly document: DocumentJson; readonly busId: string; readonly from: number; readonly to: number };
  readonly sampleRate: number;
  readonly files: RecordingFiles;
}

/** Looks for what is wrong. channels: 1, and the left is the sound. */
export interface ExamineTask extends HearOnceTask {
  readonly kind: "examine";
  readonly channels: 1 | 2;
}

/** What becomes of it in mono. */
export interface MonoTask extends HearOnceTask {
  readonly kind: "mono";
}

/** How long a clip rings after its end. */
export interface RingTask extends TaskBase {
  readonly kind: "ring";
  readonly part: SoundPart;
  readonly sampleRate: number;
  readonly files: RecordingFiles;
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

export type Task =
  | LearnTask
  | AnalyseTask
  | ExamineTask
  | MonoTask
  | RingTask
  | EnsureTask
  | VerifyTask
  | ImportTask
  | RenderTask
  | BounceTask
  | NothingTask
  | RecomputeTask
  | MeasureTask
  | ExportTask
  | DeliverTask
  | UnpackTask
  | PictureTask;
export type TaskResult =
  | { readonly frames: number }
  | LessonJson
  | AnalysisJson
  | { readonly findings: readonly Finding[] }
  | { readonly mono: MonoView }
  | VerifyResult
  | ImportResult
  | RenderResult
  | BounceResult
  | RecomputeResult
  | MeasureResult
  | ExportResult
  | DeliverResult
  | UnpackResult;

/** Reports the share that is done, 0 to 1, and what is known so far, which is asked for only when it is sent. */
export type Tick = (share: number, soFar?: () => unknown) => void;
