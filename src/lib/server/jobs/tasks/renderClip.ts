import path from "node:path";
import { BLOCK, StereoBlock } from "$lib/core/audio/block";
import { Meter } from "$lib/core/measure/meter";
import { TruePeak } from "$lib/core/measure/truePeak";
import type { BatchLevels } from "$lib/api/batches";
import { renderClip, renderSides } from "$lib/core/render/clipRender";
import { RawStream } from "$lib/core/render/rawStream";
import { FileSource } from "../../media/fileSource";
import { MadeRecording } from "../../media/madeRecording";
import type { RenderResult, RenderTask, Tick } from "./task";

const known = (value: number) => (Number.isFinite(value) ? value : null);

function levelsOf(meter: Meter, peak?: TruePeak): BatchLevels {
  const { integratedLufs, loudnessRangeLu } = meter.loudness();
  return {
    integratedLufs: known(integratedLufs),
    loudnessRangeLu: known(loudnessRangeLu),
    truePeakDbtp: peak ? known(peak.dbtp) : null
  };
}

/** The clip's window as its recording has it, before any chain; measured in step with the render, while what is read is still at hand. */
class Untreated {
  readonly #meter: Meter;
  readonly #block = new StereoBlock(BLOCK);
  readonly #raw: RawStream;

  constructor({ clip, sampleRate }: RenderTask, source: FileSource) {
    this.#meter = new Meter(sampleRate, { peaks: false });
    this.#raw = new RawStream(source, clip.recordingId, clip.offset, clip.offset + clip.length);
  }

  /** Measures the next frames, at most BLOCK. */
  go(frames: number): void {
    const { left, right } = this.#block;
    this.#raw.read(left.ptr, right.ptr, frames);
    this.#meter.push(left.ptr, right.ptr, frames);
  }

  get levels(): BatchLevels {
    return levelsOf(this.#meter);
  }

  release(): void {
    this.#raw.release();
    this.#meter.release();
    this.#block.release();
  }
}

/** Share of the time that hashing takes. */
const HASHING = 0.2;

export function renderTask(task: RenderTask, tick: Tick): RenderResult {
  const { name = "render.wav" } = task;
  const file = path.join(task.scratch, name);
  const source = new FileSource(task.files, task.sampleRate);
  const made = new MadeRecording(file, task.sampleRate);
  const { clip } = task;
  const { head, after } = renderSides(task);
  const expected = head + clip.length + after;
  const meter = new Meter(task.sampleRate, { peaks: false });
  const peak = task.measures ? new TruePeak() : undefined;
  const untreated = task.measures ? new Untreated(task, source) : undefined;
  let written = 0;
  try {
    const render = renderClip(
      task,
      source,
      (l, r, n) => {
        made.write(l, r, n);
        // The window alone is measured, without handles and tail.
        const from = Math.max(0, head - written);
        const to = Math.min(n, head + clip.length - written);
        if (to > from) {
          meter.push(l + from * 4, r + from * 4, to - from);
          peak?.push(l + from * 4, r + from * 4, to - from);
          untreated?.go(to - from);
        }
        written += n;
      },
      (done) => tick((1 - HASHING) * Math.min(1, done / expected))
    );
    const hash = made.finish((s) => tick(1 - HASHING + s * HASHING));
    return { hash, file: name, render, before: untreated?.levels ?? null, after: levelsOf(meter, peak) };
  } finally {
    made.abandon();
    meter.release();
    peak?.release();
    untreated?.release();
    source.close();
  }
}
