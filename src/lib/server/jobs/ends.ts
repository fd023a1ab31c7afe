// How jobs end with their results: recordings, edit and the jobs' ends are one transaction. Jobs that were taken together end together.
import { asOne, singles, type Command } from "$lib/core/session/commands";
import type { Document } from "$lib/core/session/document";
import { UserFault } from "../faults";
import { acceptResult } from "../services/edits";
import { loadProject } from "../services/projects";
import { registerRecordings } from "../services/recordings";
import type { Completion, JobContext, JobKind } from "./kinds/kind";
import { queue, type LeasedJob } from "./queue";
import type { TaskResult } from "./tasks/task";

/** A job that has come to its result. */
export interface End {
  readonly job: LeasedJob;
  readonly kind: JobKind;
  readonly order: unknown;
  readonly result: TaskResult;
  readonly context: JobContext;
}

/** What a result wanted to change could not be changed any more. */
class ResultRefused extends UserFault {}

function commandOf(completions: readonly Completion[], document: Document): Command | undefined {
  const commands = completions.flatMap(({ command }) => (command ? [command] : []));
  return commands.length > 1 ? asOne(commands.flatMap(singles), document) : commands[0];
}

/** Ends jobs of one project, all of them or none. */
async function write(ends: readonly End[]): Promise<void> {
  const [first] = ends;
  if (!first) return;
  const { projectId, jobId } = first.context;
  const made: { readonly id: string; readonly completion: Completion }[] = [];
  for (const { job, kind, order, result, context } of ends)
    made.push({ id: job.id, completion: await kind.complete(order, result, context) });
  let publish: () => void = () => undefined;
  const ids = made.map(({ id }) => id);
  await queue.complete(ids, async (open, models, transaction) => {
    const completions = made.filter(({ id }) => open.has(id)).map(({ completion }) => completion);
    const recordings = completions.flatMap((one) => [
      ...(one.recording ? [one.recording] : []),
      ...(one.recordings ?? [])
    ]);
    await registerRecordings(models, transaction, recordings);
    if (completions.some(({ command }) => command)) {
      const { document } = await loadProject(projectId, transaction);
      const command = commandOf(completions, document);
      const accepted = command && (await acceptResult(models, transaction, projectId, jobId, command));
      if (accepted?.refused) throw new ResultRefused(409, `${first.job.title}: ${accepted.refused}`);
      publish = () => accepted?.publish();
    }
    return new Map(made.map(({ id, completion }) => [id, completion.view]));
  });
  publish();
}

/** Ends a job with its result. Where that is refused since the project has changed meanwhile, what it does is found out once more. */
export async function endWithResult(end: End): Promise<void> {
  try {
    await write([end]);
  } catch (error) {
    if (!(error instanceof ResultRefused)) throw error;
    await write([end]);
  }
}

interface Waiting {
  readonly end: End;
  readonly signal: AbortSignal;
  resolve(): void;
  reject(error: unknown): void;
}

/** So long a job waits for the others at most, ms: beyond what short files take on a slow machine; one that holds hours must not keep the others. */
const WAITS_MS = 10000;

/** Ends of jobs that were taken together. */
export class EndsTogether {
  #waiting: Waiting[] = [];
  #due: ReturnType<typeof setTimeout> | undefined;

  /** @param left how many have not come to an end */
  constructor(private left: number) {}

  /** Resolves when the job's end is written: when all have come to one, or after a while. Rejects when it was cancelled until then. */
  add(end: End, signal: AbortSignal): Promise<void> {
    return new Promise((resolve, reject) => {
      this.#waiting.push({ end, signal, resolve, reject });
      this.#due ??= setTimeout(() => this.#write(), WAITS_MS);
      this.leave();
    });
  }

  /** One of them has come to an end. */
  leave(): void {
    this.left--;
    if (this.left === 0) this.#write();
  }

  #write(): void {
    clearTimeout(this.#due);
    this.#due = undefined;
    const all = this.#waiting;
    this.#waiting = [];
    for (const { signal, reject } of all) if (signal.aborted) reject(signal.reason);
    const some = all.filter(({ signal }) => !signal.aborted);
    write(some.map(({ end }) => end)).then(
      () => some.forEach(({ resolve }) => resolve()),
      // One of them that cannot end like this must not take the others with it.
      () => {
        for (const { end, resolve, reject } of some) endWithResult(end).then(resolve, reject);
      }
    );
  }
}
