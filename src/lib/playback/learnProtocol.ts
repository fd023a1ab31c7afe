// Messages between a worker that needs what steps must learn, and the one that learns it.
import type { LessonJson } from "$lib/api/listening";
import type { SoundPart } from "$lib/core/render/soundPart";

export type ToLearner =
  | { readonly type: "learn"; readonly id: number; readonly part: SoundPart; readonly sampleRate: number }
  /** It is no longer wanted. */
  | { readonly type: "stop"; readonly id: number };

export type FromLearner =
  | { readonly type: "progress"; readonly id: number; readonly share: number }
  /** null: it was given up. */
  | { readonly type: "learnt"; readonly id: number; readonly lesson: LessonJson | null }
  | { readonly type: "failed"; readonly id: number; readonly message: string };
