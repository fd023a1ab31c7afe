import { kernels } from "../kernels/instance";
import { num, type EffectDescription } from "./description";
import { numberParam } from "./params";

export const silence: EffectDescription = {
  id: "silence",
  name: "Silence",
  group: "whole",
  help: "Mutes the clip, or a stretch of it.",
  keywords: ["mute", "remove", "bleep", "quiet"],
  params: [
    numberParam(
      ["fromS", "From", "s", 0, 36000, 0, 3, 0.1],
      "Where the silence begins, counted from the clip's start."
    ),
    numberParam(["toS", "To", "s", 0, 36000, 0, 3, 0.1], "Where it ends; 0 is the clip's end."),
    numberParam(
      ["edgeMs", "Edges", "ms", 0, 100, 1, 1, 0.5],
      "Length of the ramps on both sides, inside the silence, so that nothing pops; none at the clip's own ends."
    )
  ],
  presets: [{ name: "The first half second", params: { fromS: 0, toS: 0.5 } }],
  summary: (params) =>
    `${num(params, "fromS")} s to ${num(params, "toS") === 0 ? "the end" : `${num(params, "toS")} s`}`,
  placed: true,
  bounded: true,
  latency: () => 0,
  settle: () => 0,
  create(params, sampleRate, { frames, position }) {
    const first = Math.round(num(params, "fromS") * sampleRate);
    const last =
      num(params, "toS") === 0 ? Math.max(first, frames) : Math.round(num(params, "toS") * sampleRate);
    const edge = Math.min(
      Math.round((num(params, "edgeMs") / 1000) * sampleRate),
      Math.floor((last - first) / 2)
    );
    // At the clip's own ends the ramps lie outside of it, in the handles: nothing of the clip is left over.
    const from = first === 0 ? -edge : first;
    const end = last >= frames ? last + edge : last;
    const straight = 0;
    let at = position;
    const stretch = (
      begin: number,
      stop: number,
      n: number,
      act: (o: number, m: number, skip: number) => void
    ) => {
      const a = Math.max(at, begin);
      const b = Math.min(at + n, stop);
      if (b > a) act((a - at) * 4, b - a, a - begin);
    };
    return {
      process(l, r, n) {
        stretch(from, from + edge, n, (o, m, skip) =>
          kernels.fade(l + o, r + o, m, edge - skip - 0.5, -1, edge, straight, 0, 0)
        );
        stretch(from + edge, end - edge, n, (o, m) => {
          kernels.clear(l + o, m);
          kernels.clear(r + o, m);
        });
        stretch(end - edge, end, n, (o, m, skip) =>
          kernels.fade(l + o, r + o, m, skip + 0.5, 1, edge, straight, 0, 0)
        );
        at += n;
      },
      release: () => undefined
    };
  }
};
