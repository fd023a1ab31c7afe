// Messages between the page and its two workers.
import type { LiveLevels } from "$lib/core/measure/meter";
import type { ChainAnalysis } from "$lib/core/render/chainAnalysis";
import type { MonitorSetting } from "$lib/core/monitor/monitor";
import type { Change } from "$lib/core/session/changes";
import type { DocumentJson } from "$lib/core/session/document";
import type { Shape } from "$lib/core/render/clipAnalysis";
import type { Pictures } from "$lib/core/render/sheetMemory";
import type { SoundPart } from "$lib/core/render/soundPart";
import type { Loop } from "./producer";
import type { RingMemory } from "./ring";

export type ToEngine =
  | {
      readonly type: "init";
      readonly ring: RingMemory;
      readonly sampleRate: number;
      readonly projectId: string;
    }
  /** The whole document, once; then what changes of it. */
  | { readonly type: "document"; readonly document: DocumentJson }
  | { readonly type: "changes"; readonly changes: readonly Change[] }
  | { readonly type: "loop"; readonly loop: Loop | null }
  /** How one listens: the monitor's level and the ear guard. */
  | { readonly type: "monitor"; readonly setting: MonitorSetting }
  /** Fetches what a start at this position needs. */
  | { readonly type: "prepare"; readonly from: number }
  /** Plays from a position on; `until`: where it stops by itself, null: at the end. */
  | {
      readonly type: "play";
      readonly from: number;
      readonly until: number | null;
      readonly epoch: number;
    }
  | { readonly type: "stop" }
  /** Whether what changed clips need is computed by itself, or when they are about to sound. */
  | { readonly type: "background"; readonly on: boolean };

export type FromEngine =
  /** Frame `frame` of the ring sounds at timeline position `position`; so on until the next mark. */
  | { readonly type: "mark"; readonly epoch: number; readonly frame: number; readonly position: number }
  /** Levels of the mix, and sample peaks of the tracks in dBFS since the message before. */
  | {
      readonly type: "levels";
      readonly epoch: number;
      readonly levels: LiveLevels;
      readonly tracks: Readonly<Record<string, number>>;
      /** How far the ear guard turns the monitor down, in dB. */
      readonly easedDb: number;
      /** Share of one core that the mix took since the message before. */
      readonly load: number;
    }
  | { readonly type: "started"; readonly epoch: number }
  /** Steps that must hear their whole clip first are doing so; null: no longer. */
  | { readonly type: "preparing"; readonly share: number | null }
  /** Clips that sound as they did until what they need is computed, and the share that is done of the first of them. */
  | { readonly type: "computing"; readonly clipIds: readonly string[]; readonly share: number }
  /** The programme is over once the ring has been read up to `frame`. */
  | { readonly type: "ended"; readonly epoch: number; readonly frame: number }
  /** Playing has ended, since this happened. */
  | { readonly type: "failed"; readonly epoch: number; readonly message: string }
  /** A change could not be taken over; what played before plays on. */
  | { readonly type: "refused"; readonly message: string };

export interface ToAnalysis {
  readonly id: number;
  readonly part: SoundPart;
  readonly shape: Shape;
  /** The frames of the part whose levels are measured; null: all. */
  readonly within: { readonly from: number; readonly to: number } | null;
  readonly pictures: Pictures;
  readonly sampleRate: number;
  readonly bins: number;
}

export type FromAnalysis =
  | { readonly type: "progress"; readonly id: number; readonly share: number }
  | { readonly type: "failed"; readonly id: number; readonly message: string }
  | ({ readonly type: "result"; readonly id: number } & ChainAnalysis);
