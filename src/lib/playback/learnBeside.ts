// Has what steps must learn learnt elsewhere: what is short by a worker beside, what is long where its sound lies.
import { MAX_OWN_SECONDS, type FarLearner } from "./chunkStore";
import LearnWorker from "./learn.worker?worker";
import type { FromLearner, ToLearner } from "./learnProtocol";

const WATCH_MS = 100;

/** Learns in a worker of its own, which is made when it is needed first. */
function besideLearner(sampleRate: number): FarLearner {
  let worker: Worker | undefined;
  let next = 1;
  const open = new Map<number, (message: FromLearner) => void>();
  const tell = (message: ToLearner) => worker?.postMessage(message);
  return (part, wanted, report) => {
    if (!worker) {
      worker = new LearnWorker();
      worker.onmessage = ({ data }: MessageEvent<FromLearner>) => open.get(data.id)?.(data);
    }
    const id = next++;
    const watch = setInterval(() => {
      if (!wanted()) tell({ type: "stop", id });
    }, WATCH_MS);
    return new Promise((resolve, reject) => {
      const end = () => {
        clearInterval(watch);
        open.delete(id);
      };
      open.set(id, (message) => {
        if (message.type === "progress") {
          report(message.share);
          return;
        }
        end();
        if (message.type === "failed") reject(new Error(message.message));
        else resolve(message.lesson ?? undefined);
      });
      tell({ type: "learn", id, part, sampleRate });
    });
  };
}

/** @param far learns where the sound lies */
export function learnElsewhere(sampleRate: number, far: FarLearner): FarLearner {
  const beside = besideLearner(sampleRate);
  return (part, wanted, report) =>
    (part.length > MAX_OWN_SECONDS * sampleRate ? far : beside)(part, wanted, report);
}
