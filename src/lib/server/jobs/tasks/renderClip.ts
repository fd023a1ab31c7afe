import path from "node:path";
import { kernels } from "$lib/core/kernels/instance";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { BLOCK } from "$lib/core/audio/block";
import { Meter } from "$lib/core/measure/meter";
import { TruePeak } from "$lib/core/measure/truePeak";
import type { BatchLevels } from "$lib/api/batches";
import { renderClip } from "$lib/core/render/clipRender";
import { RawStream } from "$lib/core/render/rawStream";
import { FileSource } from "../../media/fileSource";
import { ingest } from "../../media/ingest";
import { WavWriter } from "../../media/wavFile";
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

/** Levels of the clip's window as its recording has it, before any chain. */
function untreated({ clip, sampleRate }: RenderTask, source: FileSource) {
  const meter = new Meter(sampleRate, { peaks: false });
  const planar = new KernelBuffer(BLOCK * 8);
  const raw = new RawStream(source, clip.recordingId, clip.offset, clip.offset + clip.length);
  try {
    for (let at = 0; at < clip.length; at += BLOCK) {
      const n = Math.min(BLOCK, clip.length - at);
      raw.read(planar.ptr, planar.ptr + BLOCK * 4, n);
      meter.push(planar.ptr, planar.ptr + BLOCK * 4, n);
    }
    return levelsOf(meter);
  } finally {
    raw.release();
    meter.release();
    planar.release();
  }
}

export function renderTask(task: RenderTask, tick: Tick): RenderResult {
  const { name = "render.wav" } = task;
  const file = path.join(task.scratch, name);
  const source = new FileSource(task.files, task.sampleRate);
  const writer = new WavWriter(file, "float32", 2, task.sampleRate, "none");
  const planar = new KernelBuffer(BLOCK * 8);
  const { clip } = task;
  const head = clip.ringOut ? 0 : Math.min(task.handleFrames, clip.offset);
  const handles = Math.min(2 * task.handleFrames, task.recordingFrames - clip.length);
  const expected = clip.length + Math.max(0, handles);
  const meter = new Meter(task.sampleRate, { peaks: false });
  const peak = task.measures ? new TruePeak() : undefined;
  let written = 0;
  try {
    const before = task.measures ? untreated(task, source) : null;
    const render = renderClip(
      task,
      source,
      (l, r, n) => {
        kernels.copy(planar.ptr, l, n);
        kernels.copy(planar.ptr + BLOCK * 4, r, n);
        writer.write(planar.ptr, BLOCK * 4, n);
        // The window alone is measured, without handles and tail.
        const from = Math.max(0, head - written);
        const to = Math.min(n, head + clip.length - written);
        if (to > from) {
          meter.push(l + from * 4, r + from * 4, to - from);
          peak?.push(l + from * 4, r + from * 4, to - from);
        }
        written += n;
      },
      (done) => tick(Math.min(0.9, (0.9 * done) / expected))
    );
    writer.finish();
    const { hash } = ingest(file, task.dataFolder, task.sampleRate, task.scratch, (s) => tick(0.9 + s * 0.1));
    const after = levelsOf(meter, peak);
    return { hash, file: name, render, before, after };
  } finally {
    writer.abandon();
    meter.release();
    peak?.release();
    source.close();
    planar.release();
  }
}
