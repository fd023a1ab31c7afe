// Levels after every step, and the waveforms before and after, of one clip. The newest question wins.
import type { ChainAnalyser } from "$lib/core/render/chainAnalysis";
import { analyseClip } from "$lib/core/render/clipAnalysis";
import { partOf } from "$lib/core/render/soundPart";
import { ChunkStore } from "./chunkStore";
import type { FromAnalysis, ToAnalysis } from "./protocol";

const SPAN = 1 << 16;

let newest = 0;
let store: ChunkStore | undefined;
let storeRate = 0;

function send(message: FromAnalysis): void {
  postMessage(message);
}

async function analyse({ id, clip, sampleRate, bins }: ToAnalysis): Promise<void> {
  if (!store || storeRate !== sampleRate) {
    store = new ChunkStore(sampleRate);
    storeRate = sampleRate;
  }
  let analyser: ChainAnalyser | undefined;
  try {
    const ready = await store.prepare(
      [partOf({ ...clip, render: null })],
      () => id === newest,
      (share) => send({ type: "progress", id, share: share / 2 })
    );
    if (!ready) return;
    analyser = analyseClip(clip, store, sampleRate, bins);
    let done = false;
    while (!done) {
      await store.ensure(analyser.needed(SPAN));
      // Lets newer questions in.
      await new Promise((resolve) => setTimeout(resolve));
      if (id !== newest) return;
      done = analyser.advance(SPAN);
      send({ type: "progress", id, share: analyser.progress });
    }
    send({ type: "result", id, ...analyser.result() });
  } catch (error) {
    send({ type: "failed", id, message: error instanceof Error ? error.message : String(error) });
  } finally {
    analyser?.release();
  }
}

onmessage = ({ data }: MessageEvent<ToAnalysis>) => {
  newest = data.id;
  analyse(data).catch((error: unknown) => send({ type: "failed", id: data.id, message: String(error) }));
};
