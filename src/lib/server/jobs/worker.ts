// Entry of the server's worker threads: one task at a time, progress over a port.
import type { MessagePort } from "node:worker_threads";
import { SoundMissing } from "$lib/core/effects/soundMissing";
import { FileFault } from "$lib/core/formats/fault";
import { sentenceOf } from "../faults";
import { ensureCaches } from "../media/caches";
import { MediaStore } from "../media/store";
import { analyse } from "./tasks/analyse";
import { bounce } from "./tasks/bounce";
import { deliverItem } from "./tasks/deliverItem";
import { exportMix } from "./tasks/exportMix";
import { examine, inMono } from "./tasks/hearOnce";
import { importFile } from "./tasks/importFile";
import { measureRing } from "./tasks/measureRing";
import { learn } from "./tasks/learn";
import { pictureTask } from "./tasks/makePicture";
import { measureClip } from "./tasks/measureClip";
import { unpackArchive } from "./tasks/unpackArchive";
import { recompute } from "./tasks/recompute";
import { renderTask } from "./tasks/renderClip";
import type { Task, TaskResult, Tick } from "./tasks/task";

const REPORT_MS = 100;

/** What a task came to. A fault is for the user, an error for the log; both as text, since classes don't cross threads. */
export type Outcome =
  | { readonly result: TaskResult }
  | { readonly fault: string }
  | { readonly sentence: string }
  | { readonly error: string };

function run(task: Task, tick: Tick): TaskResult | Promise<TaskResult> {
  switch (task.kind) {
    case "import":
      return importFile(task, tick);
    case "ensure":
      return { frames: ensureCaches(task.dataFolder, task.hash, task.sampleRate, tick) };
    case "verify":
      return { state: new MediaStore(task.dataFolder).verify(task.hash, tick) };
    case "learn":
      return learn(task, tick);
    case "analyse":
      return analyse(task, tick);
    case "examine":
      return examine(task, tick);
    case "mono":
      return inMono(task, tick);
    case "ring":
      return measureRing(task, tick);
    case "render":
      return renderTask(task, tick);
    case "recompute":
      return recompute(task, tick);
    case "nothing":
      return { frames: 0 };
    case "bounce":
      return bounce(task, tick);
    case "measure":
      return measureClip(task, tick);
    case "export":
      return exportMix(task, tick);
    case "unpack":
      return unpackArchive(task, tick);
    case "deliver":
      return deliverItem(task, tick);
    case "picture":
      return pictureTask(task, tick);
  }
}

export default async function work({ task, port }: { task: Task; port: MessagePort }): Promise<Outcome> {
  let last = 0;
  const tick: Tick = (share, soFar) => {
    const now = Date.now();
    if (now - last < REPORT_MS) return;
    last = now;
    port.postMessage({ share, soFar: soFar?.() });
  };
  try {
    return { result: await run(task, tick) };
  } catch (error) {
    if (error instanceof FileFault) return { fault: error.message };
    if (error instanceof SoundMissing) return { sentence: error.message };
    const sentence = sentenceOf(error);
    if (sentence) return { sentence };
    return { error: error instanceof Error ? (error.stack ?? error.message) : String(error) };
  }
}
