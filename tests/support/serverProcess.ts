// The server as a process of its own, as users run it: started, asked, ended gently or by force.
import { spawn, type ChildProcess } from "node:child_process";
import { existsSync, mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import type { JobView } from "../../src/lib/api/jobs";
import { shortFilesBody, type ShortFileAnswer } from "../../src/lib/api/shortFiles";
import type { EditsAnswer, ProjectState } from "../../src/lib/api/types";
import type { Wish } from "../../src/lib/core/session/replica";

const root = path.resolve(import.meta.dirname, "../..");

export function newFolder(name: string): string {
  return mkdtempSync(path.join(tmpdir(), `wring-${name}-`));
}

export class ServerProcess {
  #child: ChildProcess | undefined;
  /** All that it wrote. */
  output = "";

  constructor(
    readonly data: string,
    readonly port: number,
    private readonly env: Record<string, string> = {}
  ) {
    // The server is tested as it is built: `npm test` builds first, `npm run unit` takes what there is.
    if (!existsSync(path.join(root, "build/app/handler.js")))
      throw new Error("Build the application first: npm run build.");
  }

  get base(): string {
    return `http://127.0.0.1:${this.port}`;
  }

  #spawn(): ChildProcess {
    const child = spawn(process.execPath, ["server/index.mjs"], {
      cwd: root,
      env: {
        ...process.env,
        NODE_ENV: "production",
        PORT: String(this.port),
        WRING_DATA: this.data,
        WRING_LOG: "silent",
        ...this.env
      },
      stdio: ["ignore", "pipe", "pipe", "ipc"]
    });
    for (const stream of [child.stdout, child.stderr])
      stream?.on("data", (part: Buffer) => (this.output += part.toString()));
    return child;
  }

  /** Starts it and waits until it answers. @throws Error with its output when it ends instead */
  async start(): Promise<void> {
    const child = this.#spawn();
    this.#child = child;
    await new Promise<void>((resolve, reject) => {
      child.once("message", () => resolve());
      child.once("exit", (code) => reject(new Error(`The server ended with ${code}: ${this.output}`)));
    });
  }

  /** Starts it when it is expected to end by itself. Returns its status. */
  async startInVain(): Promise<number | null> {
    const child = this.#spawn();
    this.#child = child;
    return new Promise((resolve) => child.once("exit", resolve));
  }

  /** Ends it and waits until it has. */
  async stop(signal: NodeJS.Signals = "SIGTERM"): Promise<void> {
    const child = this.#child;
    this.#child = undefined;
    if (!child || child.exitCode !== null || child.signalCode !== null) return;
    const ended = new Promise((resolve) => child.once("exit", resolve));
    child.kill(signal);
    await ended;
  }

  get running(): boolean {
    return this.#child !== undefined && this.#child.exitCode === null && this.#child.signalCode === null;
  }

  async get<T>(address: string): Promise<T> {
    const answer = await fetch(this.base + address);
    if (!answer.ok) throw new Error(`${answer.status}: ${await answer.text()}`);
    return (await answer.json()) as T;
  }

  async post<T>(address: string, body: unknown = {}): Promise<T> {
    const answer = await fetch(this.base + address, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify(body)
    });
    if (!answer.ok) throw new Error(`${answer.status}: ${await answer.text()}`);
    return (await answer.json()) as T;
  }

  async newProject(name: string): Promise<string> {
    return (await this.post<{ id: string }>("/api/projects", { name, sampleRate: 48000 })).id;
  }

  state(projectId: string): Promise<ProjectState> {
    return this.get<ProjectState>(`/api/projects/${projectId}`);
  }

  /** Sends one edit on the newest revision, as a page of its own. */
  async edit(projectId: string, wish: Wish, editId: string = crypto.randomUUID()): Promise<EditsAnswer> {
    const { revision } = await this.state(projectId);
    return this.post(`/api/projects/${projectId}/edits`, {
      page: "test-page",
      known: revision,
      edits: [{ editId, base: revision, wish }]
    });
  }

  /** Sends short files in one request. Returns what became of each. */
  async sendShort(
    projectId: string,
    files: readonly { readonly key: string; readonly name: string; readonly bytes: Uint8Array }[]
  ): Promise<ShortFileAnswer[]> {
    const body = shortFilesBody(
      files.map(({ key, name, bytes }) => ({ key, name, size: bytes.length, folder: "", partial: false })),
      files.map(({ bytes }) => new Blob([bytes as Uint8Array<ArrayBuffer>]))
    );
    const answer = await fetch(`${this.base}/api/projects/${projectId}/files`, { method: "POST", body });
    if (!answer.ok) throw new Error(`${answer.status}: ${await answer.text()}`);
    return (await answer.json()) as ShortFileAnswer[];
  }

  /**
   * Makes room for an upload. Returns the answer; the address is in its location.
   * @param bytes what is sent along with the announcement; nothing unless given
   */
  createUpload(projectId: string, name: string, length: number, bytes?: BodyInit): Promise<Response> {
    const encode = (text: string) => Buffer.from(text).toString("base64");
    return fetch(`${this.base}/api/uploads`, {
      method: "POST",
      headers: {
        "tus-resumable": "1.0.0",
        "upload-length": String(length),
        "upload-metadata": `filename ${encode(name)},projectId ${encode(projectId)}`,
        ...(bytes
          ? { "content-type": "application/offset+octet-stream", "content-length": String(length) }
          : {})
      },
      ...(bytes ? { body: bytes, duplex: "half" } : {})
    });
  }

  sendUpload(location: string, offset: number, bytes: Uint8Array): Promise<Response> {
    return fetch(new URL(location, `${this.base}/api/uploads/`), {
      method: "PATCH",
      headers: {
        "tus-resumable": "1.0.0",
        "upload-offset": String(offset),
        "content-type": "application/offset+octet-stream"
      },
      body: Buffer.from(bytes)
    });
  }

  /** Uploads a file as a whole. Returns the last answer: it names the job. */
  async upload(projectId: string, name: string, bytes: Uint8Array): Promise<Response> {
    const created = await this.createUpload(projectId, name, bytes.length);
    if (!created.ok) return created;
    return this.sendUpload(created.headers.get("location") ?? "", 0, bytes);
  }

  /** Waits until a job has ended. */
  async ended(jobId: string): Promise<JobView> {
    for (;;) {
      const job = await this.get<JobView>(`/api/jobs/${jobId}`);
      if (job.endedAt !== null) return job;
      await new Promise((resolve) => setTimeout(resolve, 25));
    }
  }

  async import(projectId: string, name: string, bytes: Uint8Array): Promise<JobView> {
    const sent = await this.upload(projectId, name, bytes);
    return this.ended(sent.headers.get("x-job") ?? "none");
  }
}
