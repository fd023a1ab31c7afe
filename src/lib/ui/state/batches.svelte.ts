// Batches of the project: what is to be done, and what became of those that were ordered.
import type { BatchView, NewBatch } from "$lib/api/batches";
import type { JobView } from "$lib/api/jobs";
import { api } from "../shared/api";
import { notices } from "../shared/notices.svelte";
import type { Session } from "./session.svelte";

/** News of many jobs come at once: the list is read again so long after the first. */
const SOON_MS = 150;

export class Batches {
  list = $state.raw<readonly BatchView[]>([]);
  #soon: ReturnType<typeof setTimeout> | undefined;
  #told = new Set<string>();

  constructor(private readonly session: Session) {}

  get #url(): string {
    return `/api/projects/${this.session.projectId}/batches`;
  }

  async load(): Promise<void> {
    this.list = await api.get<BatchView[]>(this.#url);
  }

  /** Takes in news of a job. */
  heard(job: JobView): void {
    if (job.kind !== "batch" && job.kind !== "batchEnd") return;
    this.#progress(job);
    if (job.endedAt === null) return;
    if (job.kind === "batchEnd" && job.state === "done" && !this.#told.has(job.id)) {
      this.#told.add(job.id);
      notices.news(`${job.title}: done, in one step that undo takes back. `, {
        href: `/projects/${this.session.projectId}/batch`,
        label: "See its report"
      });
    }
    if (this.#soon !== undefined) return;
    this.#soon = setTimeout(() => {
      this.#soon = undefined;
      this.load().catch((error: unknown) => notices.fault(error));
    }, SOON_MS);
  }

  #progress({ id, state, progress }: JobView): void {
    if (!this.list.some(({ items }) => items.some((item) => item.jobId === id))) return;
    this.list = this.list.map((batch) => ({
      ...batch,
      items: batch.items.map((item) => (item.jobId === id ? { ...item, state, progress } : item))
    }));
  }

  /** Orders a batch once all edits are on the server. Returns the refusal's sentence. */
  async order(batch: NewBatch): Promise<string | undefined> {
    await this.session.settled();
    try {
      await api.post<BatchView>(this.#url, batch);
      await this.load();
      return undefined;
    } catch (error) {
      return (error as Error).message;
    }
  }

  cancel(id: string): void {
    api
      .post(`${this.#url}/${id}/cancel`)
      .then(() => this.load())
      .catch((error: unknown) => notices.fault(error));
  }
}
