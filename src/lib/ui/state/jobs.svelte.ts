// Work that takes longer: uploads and the server's jobs, with progress and cancel; and the server's news of the project.
import type { ExportView, JobsView, JobView, MeasureView, NewJob } from "$lib/api/jobs";
import type { NewRenders } from "$lib/api/renders";
import type { ProjectNews } from "$lib/api/types";
import { api } from "../shared/api";
import { notices } from "../shared/notices.svelte";
import type { Session } from "./session.svelte";
import type { Given } from "../shared/givenFiles";
import { Imports } from "./imports.svelte";
import type { Work } from "./work";

/** How a measurement ended. */
export type Measured =
  | { readonly jobId: string; readonly result: MeasureView }
  | { readonly jobId: string; readonly fault: string };

export class Jobs {
  readonly imports: Imports;
  #jobs = $state.raw<readonly JobView[]>([]);
  /** The measurement that ended last. */
  measured = $state.raw<Measured | null>(null);
  readonly #events: EventSource;
  /** Jobs whose end has been told. */
  #delivered = 0;
  #renders = 0;
  readonly #told = new Set<string>();

  /** @param heard is told of every job's news */
  constructor(
    private readonly session: Session,
    private readonly heard: (job: JobView) => void
  ) {
    this.imports = new Imports(session.projectId);
    this.imports.resume().catch((error: unknown) => notices.fault(error));
    this.#events = new EventSource(`/api/projects/${session.projectId}/events`);
    this.#events.onmessage = ({ data }) => this.#hear(JSON.parse(data as string) as ProjectNews[]);
    // After a lost connection the state may have moved on without us.
    this.#events.onopen = () => this.#catchUp().catch((error: unknown) => notices.fault(error));
  }

  get #sinceKey(): string {
    return `wring.jobs.${this.session.projectId}`;
  }

  /** Hears of what ended while no one listened: since this browser last asked. */
  async #catchUp(): Promise<void> {
    try {
      const since = localStorage.getItem(this.#sinceKey);
      const query = since === null ? "" : `?since=${encodeURIComponent(since)}`;
      const view = await api.get<JobsView>(`/api/projects/${this.session.projectId}/jobs${query}`);
      this.#jobs = view.open;
      for (const job of [...view.open, ...view.ended]) this.imports.heard(job);
      for (const job of view.ended) this.#ended(job);
      localStorage.setItem(this.#sinceKey, view.until);
      await this.session.catchUp();
    } catch (error) {
      // Without a server there is nothing to catch up with: the header says so.
      if (!(error instanceof Error && "status" in error && error.status === 0)) notices.fault(error);
    }
  }

  /** What this page has told is not told again when the project is opened anew. */
  #toldUntil(endedAt: string | null): void {
    const since = localStorage.getItem(this.#sinceKey);
    if (endedAt === null || (since !== null && Date.parse(endedAt) < Date.parse(since))) return;
    localStorage.setItem(this.#sinceKey, new Date(Date.parse(endedAt) + 1).toISOString());
  }

  /** Jobs under way; files on their way are `imports`. */
  get list(): readonly Work[] {
    return this.#jobs.map((job) => ({
      id: job.id,
      kind: job.kind,
      title: job.title,
      progress: job.progress,
      cancel: () => api.post(`/api/jobs/${job.id}/cancel`).catch((error: unknown) => notices.fault(error))
    }));
  }

  /** Hears of what was done to the document first, all at once: what jobs made of it is there when their end is told. */
  #hear(news: readonly ProjectNews[]): void {
    const entries = news.flatMap((one) => (one.type === "entries" ? one.entries : []));
    if (entries.length > 0) this.session.receive(entries).catch((error: unknown) => notices.fault(error));
    for (const one of news) {
      if (one.type === "recording") this.session.heardOfRecording(one);
      else if (one.type === "job") this.#heardOfJob(one.job);
    }
  }

  #heardOfJob(job: JobView): void {
    this.heard(job);
    this.imports.heard(job);
    const others = this.#jobs.filter((j) => j.id !== job.id);
    if (job.endedAt === null) {
      if (!this.#told.has(job.id)) this.#jobs = [...others, job];
      return;
    }
    this.#jobs = others;
    this.#ended(job);
  }

  #ended(job: JobView): void {
    if (this.#told.has(job.id)) return;
    this.#told.add(job.id);
    this.#toldUntil(job.endedAt);
    if (job.kind === "measure") this.#measured(job);
    else if (job.state === "failed" && job.error) notices.fault(job.error);
    if (job.state === "cancelled") notices.news(`${job.title}: cancelled, nothing was changed.`);
    if (job.state === "done") this.#done(job);
  }

  #measured(job: JobView): void {
    if (job.state === "done") this.measured = { jobId: job.id, result: job.result as MeasureView };
    else
      this.measured = {
        jobId: job.id,
        fault: job.error ?? "The measurement was cancelled, so there are no levels."
      };
  }

  /** Those that were ordered together are told together, when the last is done. */
  #rendered(job: JobView): void {
    this.#renders++;
    if (this.#jobs.some(({ kind }) => kind === "render")) return;
    const n = this.#renders;
    this.#renders = 0;
    const what = n === 1 ? job.title : `${n} renders`;
    notices.news(`${what}: done. The chain stays; restore takes the render away again.`);
  }

  #done(job: JobView): void {
    if (job.kind === "render") this.#rendered(job);
    if (job.kind === "bounce")
      notices.news(`${job.title}: done. The clips are muted below it; undo brings them back.`);
    if (job.kind === "import") {
      const { repaired, same, fileName } = job.result as {
        repaired: string | null;
        same: string | null;
        fileName: string;
      };
      if (same)
        notices.news(
          `"${fileName}" is the same sound as "${same}", which is here already: nothing was added.`
        );
      if (repaired !== null) notices.news(`"${repaired}" is whole again: its damaged file was replaced.`);
    }
    // Those of one delivery are told together, when the last is done.
    if (job.kind === "deliver") {
      this.#delivered++;
      if (this.#jobs.some(({ kind }) => kind === "deliver")) return;
      const n = this.#delivered;
      this.#delivered = 0;
      const href = `/projects/${this.session.projectId}/deliver`;
      if (location.pathname !== href)
        notices.news(n === 1 ? "A file is delivered. " : `${n} files are delivered. `, {
          href,
          label: "See what it measures"
        });
    }
    if (job.kind === "export") {
      const { fileName, bytes, measurement, broken } = job.result as ExportView;
      const loudness =
        measurement.integratedLufs === null ? "silent" : `${measurement.integratedLufs.toFixed(1)} LUFS`;
      const peak = measurement.truePeakDbtp === null ? "" : `, ${measurement.truePeakDbtp.toFixed(1)} dBTP`;
      notices.news(`${fileName} is ready: ${loudness}${peak}, ${(bytes / 1e6).toFixed(1)} MB. `, {
        href: `/api/jobs/${job.id}/file`,
        label: "Save the file"
      });
      if (broken && broken.length > 0)
        notices.fault(
          `The export holds sound of damaged recordings: ${broken.map((name) => `"${name}"`).join(", ")}. Import their files again.`
        );
    }
  }

  /** Starts a job once all edits are on the server. Returns its id; undefined when it was refused. */
  async start(order: NewJob): Promise<string | undefined> {
    await this.session.settled();
    try {
      const job = await api.post<JobView>(`/api/projects/${this.session.projectId}/jobs`, order);
      this.#heardOfJob(job);
      // A short job may have ended before its first event could be heard here.
      this.#heardOfJob(await api.get<JobView>(`/api/jobs/${job.id}`));
      return job.id;
    } catch (error) {
      notices.fault(error);
      return undefined;
    }
  }

  /** Starts renders once all edits are on the server. Returns how many recordings will be made. */
  async startRenders(order: NewRenders): Promise<number> {
    await this.session.settled();
    try {
      const jobs = await api.post<JobView[]>(`/api/projects/${this.session.projectId}/renders`, order);
      for (const job of jobs) this.#heardOfJob(job);
      if (jobs.length === 0) notices.news("All of them are rendered already.");
      return jobs.length;
    } catch (error) {
      notices.fault(error);
      return 0;
    }
  }

  /** Starts renders whose ends are told by notices. */
  beginRenders(order: NewRenders): void {
    this.startRenders(order).catch((error: unknown) => notices.fault(error));
  }

  /** Starts a job whose end is told by a notice. */
  begin(order: NewJob): void {
    this.start(order).catch((error: unknown) => notices.fault(error));
  }

  /** Sends files; each becomes a recording. Returns the keys of their rows. */
  importFiles({ files, leftOut }: Given): string[] {
    const keys = this.imports.add(files);
    if (leftOut > 0)
      notices.news(
        leftOut === 1
          ? "One file of the folder holds no sound and was left out."
          : `${leftOut} files of the folder hold no sound and were left out.`
      );
    return keys;
  }

  close(): void {
    this.#events.close();
  }
}
