// Both of a pair are measured one after the other, seven times; the median of the ratios is printed. What the reference spends on reading the
// file is subtracted from its time, and what copying a sound in takes from that of a chain.
import { BLOCK, StereoBlock } from "../../src/lib/core/audio/block";
import { Chain } from "../../src/lib/core/effects/chain";
import { kernels } from "../../src/lib/core/kernels/instance";
import { ffmpegFilter } from "../native";
import { median, row } from "../table";
import { ffmpeg, RATE, SECONDS, silent, sound, wav } from "./setup";

const ROUNDS = 7;
const block = new StereoBlock(BLOCK);

/** Processor time of work, seconds. In user and system mode together: where the kernel counts the two by its clock's ticks, only their sum is exact. */
export function timed(work: () => void): number {
  const begin = process.cpuUsage();
  work();
  const { user, system } = process.cpuUsage(begin);
  return (user + system) / 1e6;
}

/** Runs a chain over the sound, which is copied in block by block. */
function runChain(chain: Chain, from: StereoBlock, frames: number): void {
  for (let at = 0; at < frames; at += BLOCK) {
    const n = Math.min(BLOCK, frames - at);
    kernels.copy(block.left.ptr, from.left.ptr + at * 4, n);
    kernels.copy(block.right.ptr, from.right.ptr + at * 4, n);
    chain.process(block.left.ptr, block.right.ptr, n);
  }
}

const empty = new Chain([], RATE);

/** Processor time of a chain over a sound, less that of copying it in: as the reading of the file is not counted of the reference either. */
export function chainTime(chain: Chain, from: StereoBlock, frames: number): number {
  const copying = timed(() => runChain(empty, from, frames));
  return Math.max(1e-4, timed(() => runChain(chain, from, frames)) - copying);
}

interface Pair {
  readonly name: string;
  readonly ours: () => number;
  /** Undefined when the reference is not installed. */
  readonly theirs: (() => number) | undefined;
  readonly least: number;
  readonly reference: string;
}

export function compare({ name, ours, theirs, least, reference }: Pair): void {
  ours();
  const mine: number[] = [];
  const ratios: number[] = [];
  for (let i = 0; i < ROUNDS; i++) {
    mine.push(ours());
    if (theirs) ratios.push(theirs() / mine[i]);
  }
  const speed = SECONDS / median(mine);
  if (!theirs) {
    row(`${name}: ${reference} is not installed`, speed, "× real time");
    return;
  }
  row(`${name} (${speed.toFixed(0)} × real time)`, median(ratios), `× ${reference}`, least);
}

/** The speed on digital silence after sound, against that on sound. */
export function compareSilence(name: string, times: () => readonly [loud: number, quiet: number]): void {
  const ratios: number[] = [];
  for (let i = 0; i < ROUNDS; i++) {
    const [loud, quiet] = times();
    ratios.push(loud / quiet);
  }
  row(`${name} on silence after sound`, median(ratios), "× its speed", 0.9);
}

/** The same for a chain: ten seconds of sound, as much silence, and then silence that is measured. */
export function chainOnSilence(name: string, makeChain: () => Chain): void {
  const frames = silent.left.bytes / 4;
  compareSilence(name, () => {
    const chain = makeChain();
    const loud = chainTime(chain, sound, frames);
    runChain(chain, silent, frames);
    const quiet = chainTime(chain, silent, frames);
    chain.release();
    return [loud, quiet];
  });
}

/** What a filter of ffmpeg takes; reading the file is measured each time anew, since the machine's speed changes. */
export const filter = (f: string, more?: readonly string[]) =>
  ffmpeg ? () => Math.max(1e-3, ffmpegFilter(wav, f, more) - ffmpegFilter(wav, "anull", more)) : undefined;
