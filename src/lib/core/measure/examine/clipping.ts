import { areClipped, FlatTops, takeSides } from "../../audio/flatTops";
import { gainToDb, formatDb } from "../../units/decibels";
import { MOST_PLACES, type Finding, type FindingPlace, type Look } from "./finding";

export class ClippingLook implements Look {
  readonly #sides = Array.from({ length: 4 }, () => new FlatTops());

  constructor(private readonly sampleRate: number) {}

  push(l: number, r: number, n: number): void {
    takeSides(this.#sides, l, r, n);
  }

  finish(): Finding[] {
    const tops = this.#sides.flatMap((side) => side.tops()).sort((a, b) => a.frame - b.frame);
    const samples = tops.reduce((sum, top) => sum + top.samples, 0);
    const all = this.#sides[0].frames;
    if (!areClipped(tops, all)) return [];
    const places: FindingPlace[] = [];
    for (const { frame, samples: length } of tops) {
      const from = frame / this.sampleRate;
      if (places.length < MOST_PLACES && (places.length === 0 || from - places[places.length - 1].to > 0.1))
        places.push({ from, to: (frame + length) / this.sampleRate });
    }
    const level = gainToDb(Math.max(...this.#sides.map((side) => side.most)));
    const percent = (samples / 2 / all) * 100;
    return [
      {
        kind: "clipped",
        certainty: "sure",
        value: percent,
        unit: "%",
        text: `Clipped at ${formatDb(level)} dBFS: ${percent.toFixed(percent < 0.1 ? 3 : 1)} % of the samples, ${Math.round(tops.length / 2)} tops.`,
        places,
        step: { effect: "declip", params: {} }
      }
    ];
  }

  release(): void {
    // It holds no memory.
  }
}
