import { kernels } from "../kernels/instance";
import type { EffectDescription } from "./description";

export const reverse: EffectDescription = {
  id: "reverse",
  name: "Reverse",
  group: "whole",
  clipOnly: true,
  help: "Plays the clip backwards.",
  keywords: ["backwards", "turn round"],
  params: [],
  presets: [],
  summary: () => "backwards",
  latency: () => 0,
  settle: () => 0,
  learn(_params, _sampleRate, place) {
    const sound = place.spool();
    return {
      push: (l, r, n) => sound.append(l, r, n),
      finish: () => ({ values: {}, sound }),
      release: () => undefined
    };
  },
  create(_params, _sampleRate, { frames, position, learnt }) {
    let at = position;
    return {
      process(l, r, n) {
        if (learnt?.sound) learnt.sound.read(frames - at - n, n, l, r);
        kernels.reverse(l, n);
        kernels.reverse(r, n);
        at += n;
      },
      release: () => undefined
    };
  }
};
