// Pictures of videos that the browser cannot show itself: small copies that the server makes, once for each.
import type { JobView } from "$lib/api/jobs";
import type { Jobs } from "./jobs.svelte";

/** How it stands with a copy: under way with the share that is done, there, or not to be had. */
export type Copy = { readonly share: number } | "there" | "none";

function copyAfter({ state, progress }: JobView): Copy {
  if (state === "done") return "there";
  return state === "failed" || state === "cancelled" ? "none" : { share: progress };
}

export class Pictures {
  #copies = $state.raw<ReadonlyMap<string, Copy>>(new Map());
  /** Jobs that make copies, as they stood last, by id; and the recordings they are for, as soon as that is known. */
  readonly #jobs = new Map<string, JobView>();
  readonly #recordings = new Map<string, string>();

  constructor(private readonly jobs: () => Pick<Jobs, "start">) {}

  /** The copy of a recording's picture; undefined as long as the browser is trusted with the video. */
  copyOf(recordingId: string): Copy | undefined {
    return this.#copies.get(recordingId);
  }

  #set(recordingId: string, copy: Copy): void {
    this.#copies = new Map(this.#copies).set(recordingId, copy);
  }

  /** The browser cannot show a recording's video: a copy is ordered. One that it cannot show either is given up. */
  async unseen(recordingId: string): Promise<void> {
    if (this.#copies.has(recordingId)) {
      this.#set(recordingId, "none");
      return;
    }
    this.#set(recordingId, { share: 0 });
    const id = await this.jobs().start({ kind: "picture", recordingId });
    if (id === undefined) {
      this.#set(recordingId, "none");
      return;
    }
    this.#recordings.set(id, recordingId);
    const job = this.#jobs.get(id);
    if (job) this.heard(job);
  }

  /** Takes in news of a job. */
  heard(job: JobView): void {
    if (job.kind !== "picture") return;
    this.#jobs.set(job.id, job);
    const recordingId = this.#recordings.get(job.id);
    if (recordingId !== undefined) this.#set(recordingId, copyAfter(job));
  }
}
