// Levels after every step, and the waveforms before and after, of one clip or recording. The newest question wins.
import type { ChainAnalyser } from "$lib/core/render/chainAnalysis";
import { analysePart } from "$lib/core/render/clipAnalysis";
import { SheetMemory } from "$lib/core/render/sheetMemory";
import { ChunkStore } from "./chunkStore";
import type { FromAnalysis, ToAnalysis } from "./protocol";

const SPAN = 1 << 16;

let newest = 0;
let store: ChunkStore | undefined;
let storeRate = 0;
const memory = new SheetMemory();

function send(message: FromAnalysis): void {
  postMessage(message);
}

async function analyse({
  id,
  part,
  shape,
  within: wanted,
  pictures,
  sampleRate,
  bins
}: ToAnalysis): Promise<void> {
  if (!store || storeRate !== sampleRate) {
    store = new ChunkStore(sampleRate);
    storeRate = sampleRate;
  }
  let analyser: ChainAnalyser | undefined;
  try {
    const ready = await store.prepare(
      [part],
      () => id === newest,
      (share) => send({ type: "progress", id, share: share / 2 })
    );
    if (!ready) return;
    const within = wanted ?? undefined;
    const plan = memory.plan(part, within, pictures);
    analyser = analysePart(part, shape, store, sampleRate, bins, {
      ...plan,
      ...pictures,
      within,
      clock: () => performance.now()
    });
    const now = analyser;
    let done = false;
    while (!done) {
      await store.ensure(now.needed(SPAN));
      // Lets newer questions in.
      await new Promise((resolve) => setTimeout(resolve));
      if (id !== newest) return;
      done = now.advance(SPAN);
      send({ type: "progress", id, share: now.progress });
    }
    send({ type: "result", id, ...memory.complete(part, within, plan, now.result()) });
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
