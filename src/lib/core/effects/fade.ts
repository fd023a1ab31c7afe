import { FADE_NAMES, PLAIN_CURVES, fadeBlock, type FadeCurve } from "../audio/fades";
import { choice, num, type EffectDescription } from "./description";
import { choiceParam, numberParam } from "./params";

const curves = PLAIN_CURVES.map((curve) => [curve, FADE_NAMES[curve]] as const);

export const fade: EffectDescription = {
  id: "fade",
  name: "Fade",
  group: "whole",
  help: "Fades the clip at this place of the chain, so that later steps ring on.",
  keywords: ["fade in", "fade out", "start", "end", "edge"],
  params: [
    numberParam(["inS", "Fade in", "s", 0, 600, 0, 3, 0.05], "Length of the fade in."),
    choiceParam("inCurve", "Curve in", curves, "Shape of the fade in."),
    numberParam(["outS", "Fade out", "s", 0, 600, 0, 3, 0.05], "Length of the fade out."),
    choiceParam("outCurve", "Curve out", curves, "Shape of the fade out.")
  ],
  presets: [
    { name: "No pop at the edges, 1 ms", params: { inS: 0.001, outS: 0.001 } },
    { name: "Out in 3 s", params: { outS: 3, outCurve: "sShaped" } }
  ],
  summary: (params) => `in ${num(params, "inS")} s, out ${num(params, "outS")} s`,
  placed: true,
  bounded: true,
  latency: () => 0,
  settle: () => 0,
  create(params, sampleRate, { frames, position }) {
    const fades = {
      length: frames,
      fadeIn: {
        length: Math.min(frames, Math.round(num(params, "inS") * sampleRate)),
        shape: { curve: choice(params, "inCurve") as FadeCurve }
      },
      fadeOut: {
        length: Math.min(frames, Math.round(num(params, "outS") * sampleRate)),
        shape: { curve: choice(params, "outCurve") as FadeCurve }
      }
    };
    let at = position;
    return {
      process(l, r, n) {
        if (frames > 0) fadeBlock(fades, at, l, r, n);
        at += n;
      },
      release: () => undefined
    };
  }
};
