// Work that takes longer: uploads and the server's jobs, with progress and cancel; and the server's news of the project.
import { Upload, type DetailedError } from "tus-js-client";
import type { ExportView, JobView, MeasureView, NewJob } from "$lib/api/types";
import { api } from "../shared/api";
import { notices } from "../shared/notices.svelte";
import type { Session } from "./session.svelte";

const CHUNK_BYTES = 16 << 20;

type News =
  { readonly type: "document"; readonly revision: number } | { readonly type: "job"; readonly job: JobView };

export interface Work {
  readonly id: string;
  readonly title: string;
  readonly progress: number;
  readonly cancel: () => void;
}

export class Jobs {
  #uploads = $state.raw<readonly Work[]>([]);
  #jobs = $state.raw<readonly JobView[]>([]);
  /** Finished measurements by clip, newest kept. */
  measured = $state.raw<{ readonly jobId: string; readonly result: MeasureView } | null>(null);
  readonly #events: EventSource;

  constructor(private readonly session: Session) {
    this.#events = new EventSource(`/api/projects/${session.projectId}/events`);
    this.#events.onmessage = ({ data }) => this.#hear(JSON.parse(data as string) as News);
    // After a lost connection the state may have moved on without us.
    this.#events.onopen = () => void this.#catchUp();
  }

  async #catchUp(): Promise<void> {
    try {
      this.#jobs = await api.get<JobView[]>(`/api/projects/${this.session.projectId}/jobs`);
      const state = await api.get<{ revision: number }>(`/api/projects/${this.session.projectId}`);
      this.session.heardOf(state.revision);
    } catch (error) {
      notices.fault(error);
    }
  }

  /** Everything under way. */
  get list(): readonly Work[] {
    const jobs = this.#jobs.map((job) => ({
      id: job.id,
      title: job.title,
      progress: job.progress,
      cancel: () =>
        void api.post(`/api/jobs/${job.id}/cancel`).catch((error: unknown) => notices.fault(error))
    }));
    return [...this.#uploads, ...jobs];
  }

  #hear(event: News): void {
    if (event.type === "document") {
      this.session.heardOf(event.revision);
      return;
    }
    const { job } = event;
    const others = this.#jobs.filter((j) => j.id !== job.id);
    const open = job.state === "queued" || job.state === "running";
    this.#jobs = open ? [...others, job] : others;
    if (job.state === "failed" && job.error) notices.fault(job.error);
    if (job.state === "cancelled") notices.news(`${job.title}: cancelled, nothing was changed.`);
    if (job.state === "done") this.#done(job);
  }

  #done(job: JobView): void {
    if (job.kind === "measure") this.measured = { jobId: job.id, result: job.result as MeasureView };
    if (job.kind === "render")
      notices.news(`${job.title}: done. The chain stays; restore takes the render away again.`);
    if (job.kind === "export") {
      const { fileName, bytes, measurement } = job.result as ExportView;
      const loudness =
        measurement.integratedLufs === null ? "silent" : `${measurement.integratedLufs.toFixed(1)} LUFS`;
      const peak = measurement.truePeakDbtp === null ? "" : `, ${measurement.truePeakDbtp.toFixed(1)} dBTP`;
      notices.news(`${fileName} is ready: ${loudness}${peak}, ${(bytes / 1e6).toFixed(1)} MB. `, {
        href: `/api/jobs/${job.id}/file`,
        label: "Save the file"
      });
    }
  }

  /** Starts a job once all edits are on the server. Returns its id; undefined when it was refused. */
  async start(order: NewJob): Promise<string | undefined> {
    await this.session.settled();
    try {
      const job = await api.post<JobView>(`/api/projects/${this.session.projectId}/jobs`, order);
      if (!this.#jobs.some((j) => j.id === job.id)) this.#jobs = [...this.#jobs, job];
      await this.#refresh(job.id);
      return job.id;
    } catch (error) {
      notices.fault(error);
      return undefined;
    }
  }

  // A short job may have ended before its first event could be heard here.
  async #refresh(id: string): Promise<void> {
    const job = await api.get<JobView>(`/api/jobs/${id}`);
    const known = this.#jobs.some((j) => j.id === id);
    if (known && job.state !== "queued" && job.state !== "running")
      this.#jobs = this.#jobs.filter((j) => j.id !== id);
  }

  /** Uploads files one after the other side by side; each becomes a recording. */
  importFiles(files: Iterable<File>): void {
    for (const file of files) this.#upload(file);
  }

  #upload(file: File): void {
    const id = crypto.randomUUID();
    const set = (progress: number | null) => {
      const others = this.#uploads.filter((u) => u.id !== id);
      this.#uploads =
        progress === null ? others : [...others, { id, title: `Upload ${file.name}`, progress, cancel }];
    };
    const upload = new Upload(file, {
      endpoint: "/api/uploads",
      chunkSize: CHUNK_BYTES,
      retryDelays: [0, 500, 2000],
      storeFingerprintForResuming: false,
      metadata: { filename: file.name, projectId: this.session.projectId },
      onShouldRetry: (error) => (error as DetailedError).originalResponse === null,
      onProgress: (sent, total) => set(total > 0 ? sent / total : 0),
      onSuccess: () => set(null),
      onError: (error) => {
        set(null);
        const sentence = (error as DetailedError).originalResponse?.getBody();
        notices.fault(sentence ? sentence : `"${file.name}" was not imported: the upload was interrupted.`);
      }
    });
    const cancel = () => {
      void upload.abort(true).catch(() => undefined);
      set(null);
      notices.news(`Upload ${file.name}: cancelled, nothing was kept.`);
    };
    set(0);
    upload.start();
  }

  close(): void {
    this.#events.close();
  }
}
