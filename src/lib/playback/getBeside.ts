import GetWorker from "./get.worker?worker";
import type { FromGet, ToGet } from "./get.worker";
import type { Getter } from "./getter";

/** Gets in a worker of its own. */
export function getBeside(): Getter {
  const worker = new GetWorker();
  const open = new Map<number, (message: FromGet) => void>();
  let next = 1;
  worker.onmessage = ({ data }: MessageEvent<FromGet>) => {
    open.get(data.id)?.(data);
    open.delete(data.id);
  };
  return (address) =>
    new Promise((resolve, reject) => {
      const question: ToGet = { id: next++, address };
      open.set(question.id, (message) => {
        if ("failed" in message) reject(new Error(message.failed));
        else resolve(message.gotten);
      });
      worker.postMessage(question);
    });
}
