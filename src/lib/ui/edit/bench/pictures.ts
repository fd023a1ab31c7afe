// Effects that have a picture of what they do. An effect gains one by a line here; without one it shows its controls alone.
import type { Component } from "svelte";
import type { Learnt, Params } from "$lib/core/effects/description";
import EqPanel from "./EqPanel.svelte";
import NoiseSource from "./NoiseSource.svelte";
import ResponseCurve from "./ResponseCurve.svelte";
import TransferCurve from "./TransferCurve.svelte";

export interface PanelProps {
  params: Params;
  draft: (change: Params) => void;
  commit: (change: Params) => boolean;
  effect: string;
  /** Pixels that the picture may take. */
  height: number;
  /** Parameters in which the steps of several clips differ. */
  mixed: ReadonlySet<string>;
  /** What the step learnt of the clip, once it has. */
  learnt?: Learnt["values"];
}

interface Picture {
  readonly panel: Component<PanelProps>;
  /** Whether the panel brings the controls as well. */
  readonly whole: boolean;
}

export const pictures: Readonly<Record<string, Picture>> = {
  "parametric-eq": { panel: EqPanel, whole: true },
  compressor: { panel: TransferCurve, whole: false },
  limiter: { panel: TransferCurve, whole: false },
  expander: { panel: TransferCurve, whole: false },
  gate: { panel: TransferCurve, whole: false },
  tone: { panel: ResponseCurve, whole: false },
  "hum-removal": { panel: ResponseCurve, whole: false },
  "noise-reduction": { panel: NoiseSource, whole: false }
};
