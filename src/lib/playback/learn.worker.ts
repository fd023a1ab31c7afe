// Learns what steps have to beside the worker that makes the sound: that one never has the time.
import { prePassKey } from "$lib/core/render/prePass";
import { ChunkStore } from "./chunkStore";
import type { FromLearner, ToLearner } from "./learnProtocol";

let store: ChunkStore | undefined;
const wanted = new Set<number>();

function send(message: FromLearner): void {
  postMessage(message);
}

async function learn({ id, part, sampleRate }: Extract<ToLearner, { type: "learn" }>): Promise<void> {
  store ??= new ChunkStore(sampleRate);
  wanted.add(id);
  try {
    const done = await store.prepare(
      [part],
      () => wanted.has(id),
      (share) => send({ type: "progress", id, share })
    );
    const learnt = done ? store.learnt.get(prePassKey(part, sampleRate) ?? "") : undefined;
    const lesson = learnt && {
      learnt: learnt.map((one) => one?.values ?? null),
      sound: learnt.some((one) => one?.sound)
    };
    send({ type: "learnt", id, lesson: lesson ?? null });
  } catch (error) {
    send({ type: "failed", id, message: error instanceof Error ? error.message : String(error) });
  } finally {
    wanted.delete(id);
  }
}

onmessage = ({ data }: MessageEvent<ToLearner>) => {
  if (data.type === "stop") wanted.delete(data.id);
  else learn(data).catch((error: unknown) => send({ type: "failed", id: data.id, message: String(error) }));
};
