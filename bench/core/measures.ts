import { Meter } from "../../src/lib/core/measure/meter";
import type { StereoBlock } from "../../src/lib/core/audio/block";
import { compiled, numbersOf } from "../native";
import { row } from "../table";
import { compare, compareSilence, filter, timed } from "./pairs";
import { folder, FRAMES, raw, RATE, silent, sound } from "./setup";

type Options = ConstructorParameters<typeof Meter>[1];
const CHUNK = 4800;

function push(meter: Meter, from: StereoBlock, frames: number): void {
  for (let at = 0; at < frames; at += CHUNK)
    meter.push(from.left.ptr + at * 4, from.right.ptr + at * 4, Math.min(CHUNK, frames - at));
}

function meterTime(options: Options): number {
  const meter = new Meter(RATE, options);
  const seconds = timed(() => {
    push(meter, sound, FRAMES);
    if (options?.peaks === false) meter.loudness();
    else meter.result();
  });
  meter.release();
  return seconds;
}

function silence(name: string, options: Options): void {
  const frames = silent.left.bytes / 4;
  compareSilence(name, () => {
    const meter = new Meter(RATE, options);
    const loud = timed(() => push(meter, sound, frames));
    push(meter, silent, frames);
    const quiet = timed(() => push(meter, silent, frames));
    meter.release();
    return [loud, quiet];
  });
}

/** Loudness and the other measures. */
export function loudness(): void {
  const program = compiled("loudness", folder, ["ebur128"]);
  const library = (mode: string) =>
    program ? () => numbersOf(program, [raw, String(RATE), mode])[0] : undefined;
  compare({
    name: "loudness I + LRA",
    ours: () => meterTime({ peaks: false }),
    theirs: library("i"),
    least: 4,
    reference: "libebur128"
  });
  compare({
    name: "I + LRA + true peak, all measures",
    ours: () => meterTime({ annex2: true }),
    theirs: library("t"),
    least: 20,
    reference: "libebur128"
  });
  compare({
    name: "I + LRA + true peak, all measures",
    ours: () => meterTime({ annex2: true }),
    theirs: filter("ebur128=peak=true"),
    least: 10,
    reference: "ffmpeg ebur128"
  });
  silence("loudness I + LRA", { peaks: false });
  silence("all measures", { annex2: true });
  if (program) {
    const [, i, range, peak] = numbersOf(program, [raw, String(RATE), "t"]);
    const meter = new Meter(RATE);
    meter.push(sound.left.ptr, sound.right.ptr, FRAMES);
    const mine = meter.result();
    meter.release();
    row(
      "integrated loudness: difference from libebur128",
      Math.abs(mine.integratedLufs - i),
      "LU",
      undefined,
      0.01
    );
    row(
      "loudness range: difference from libebur128",
      Math.abs(mine.loudnessRangeLu - range),
      "LU",
      undefined,
      0.1
    );
    row("true peak: difference from libebur128", Math.abs(mine.truePeakDbtp - peak), "dB", undefined, 0.3);
  }
}
