// Short files on their way, many in one request: sent again and again until they are taken or refused. Each is taken once, however often it is sent.
import type { JobView } from "$lib/api/jobs";
import { shortFilesBody, type ShortFile, type ShortFileAnswer } from "$lib/api/shortFiles";
import { api, Refused } from "../shared/api";
import { mayHelp, RETRY_MS } from "./retries";

export interface ShortGiven {
  readonly key: string;
  readonly file: File;
  readonly folder: string;
  readonly partial: boolean;
}

export interface ShortPort {
  /** It is imported by this job, whose id is its key. */
  taken(key: string, job: JobView): void;
  refused(key: string, sentence: string): void;
  /** It had been given up. */
  givenUp(key: string): void;
}

interface Read {
  readonly told: ShortFile;
  readonly content: Blob;
}

export class ShortSending {
  readonly #unwanted = new Set<string>();
  readonly #address: string;

  constructor(
    projectId: string,
    private readonly given: readonly ShortGiven[],
    private readonly port: ShortPort
  ) {
    this.#address = `/api/projects/${projectId}/files`;
  }

  /** Resolves when each file was taken, refused or given up. */
  async run(): Promise<void> {
    const files = await this.#read();
    const wanted = () => files.filter(({ told }) => !this.#unwanted.has(told.key));
    for (const pause of RETRY_MS) {
      if (pause > 0) await new Promise((resolve) => setTimeout(resolve, pause));
      const left = wanted();
      if (left.length === 0) return;
      try {
        this.#hear(left, await this.#send(left));
        return;
      } catch (error) {
        if (!(error instanceof Refused)) throw error;
        if (mayHelp(error.status)) continue;
        for (const { told } of left) this.port.refused(told.key, error.message);
        return;
      }
    }
    for (const { told } of wanted())
      this.port.refused(told.key, `"${told.name}" was not imported: the upload was interrupted.`);
  }

  /** What files hold: one that cannot be read must not hold up the others. */
  async #read(): Promise<Read[]> {
    const read = this.given.map(async ({ key, file, folder, partial }): Promise<Read[]> => {
      try {
        const content = new Blob([await file.arrayBuffer()]);
        return [{ told: { key, name: file.name, size: content.size, folder, partial }, content }];
      } catch {
        const why = "it was moved or changed since it was chosen";
        this.port.refused(key, `"${file.name}" was not imported: ${why}.`);
        return [];
      }
    });
    return (await Promise.all(read)).flat();
  }

  #send(files: readonly Read[]): Promise<ShortFileAnswer[]> {
    const body = shortFilesBody(
      files.map(({ told }) => told),
      files.map(({ content }) => content)
    );
    return api.send<ShortFileAnswer[]>(this.#address, body);
  }

  #hear(files: readonly Read[], answers: readonly ShortFileAnswer[]): void {
    files.forEach(({ told }, i) => {
      const answer = answers[i];
      if (!answer) return;
      if ("givenUp" in answer) this.port.givenUp(told.key);
      else if ("refused" in answer) this.port.refused(told.key, answer.refused);
      else this.port.taken(told.key, answer.job);
    });
  }

  /** Gives a file up, sent or not. @throws Refused with status 409 when it has been imported already */
  async giveUp(key: string): Promise<void> {
    this.#unwanted.add(key);
    await api.remove(`${this.#address}/${key}`);
  }
}
