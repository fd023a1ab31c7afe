import path from "node:path";
import { kernels } from "$lib/core/kernels/instance";
import { Buffer as KernelBuffer } from "$lib/core/kernels/memory";
import { BLOCK } from "$lib/core/audio/block";
import { renderClip } from "$lib/core/render/clipRender";
import { FileSource } from "../../media/fileSource";
import { ingest } from "../../media/ingest";
import { WavWriter } from "../../media/wavFile";
import type { RenderResult, RenderTask, Tick } from "./task";

export function renderTask(task: RenderTask, tick: Tick): RenderResult {
  const name = "render.wav";
  const file = path.join(task.scratch, name);
  const source = new FileSource(task.files, task.sampleRate);
  const writer = new WavWriter(file, "float32", 2, task.sampleRate, "none");
  const planar = new KernelBuffer(BLOCK * 8);
  const expected = task.clip.length + 2 * task.handleFrames;
  try {
    const render = renderClip(
      task,
      source,
      (l, r, n) => {
        kernels.copy(planar.ptr, l, n);
        kernels.copy(planar.ptr + BLOCK * 4, r, n);
        writer.write(planar.ptr, BLOCK * 4, n);
      },
      (done) => tick(Math.min(0.9, (0.9 * done) / expected))
    );
    writer.finish();
    const { hash } = ingest(file, task.dataFolder, task.sampleRate, task.scratch, (s) => tick(0.9 + s * 0.1));
    return { hash, file: name, render };
  } finally {
    writer.abandon();
    source.close();
    planar.release();
  }
}
