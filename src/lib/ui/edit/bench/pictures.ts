// Effects that have a picture of what they do. An effect gains one by a line here; without one it shows its controls alone.
import type { Component } from "svelte";
import type { Learnt, Params } from "$lib/core/effects/description";
import DecayPicture from "./DecayPicture.svelte";
import DynamicsPicture from "./DynamicsPicture.svelte";
import EqPanel from "./EqPanel.svelte";
import HumPicture from "./HumPicture.svelte";
import ModulationPicture from "./ModulationPicture.svelte";
import NoisePicture from "./NoisePicture.svelte";
import ResponseCurve from "./ResponseCurve.svelte";
import SpectrumPicture from "./SpectrumPicture.svelte";
import TracePicture from "./TracePicture.svelte";

export interface PanelProps {
  stepId: string;
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
  /** Whether it shows what comes to the step and leaves it: the sound has to be heard for it. */
  readonly traced: boolean;
}

const part = (panel: Component<PanelProps>, traced = true): Picture => ({ panel, whole: false, traced });

export const pictures: Readonly<Record<string, Picture>> = {
  "parametric-eq": { panel: EqPanel, whole: true, traced: true },
  compressor: part(DynamicsPicture),
  limiter: part(DynamicsPicture),
  expander: part(DynamicsPicture),
  gate: part(DynamicsPicture),
  leveller: part(TracePicture),
  "de-esser": part(SpectrumPicture),
  "transient-shaper": part(TracePicture),
  tone: part(ResponseCurve, false),
  "hum-removal": part(HumPicture),
  "noise-reduction": part(NoisePicture),
  "click-repair": part(TracePicture),
  "plosive-removal": part(TracePicture),
  declip: part(TracePicture),
  reverb: part(DecayPicture, false),
  delay: part(DecayPicture, false),
  chorus: part(ModulationPicture, false),
  flanger: part(ModulationPicture, false)
};

/** Effects whose pictures need a trace. */
export const tracedEffects: ReadonlySet<string> = new Set(
  Object.entries(pictures).flatMap(([id, { traced }]) => (traced ? [id] : []))
);
