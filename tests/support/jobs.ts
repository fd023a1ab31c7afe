// Jobs of the server's services, waited for.
import { randomBytes } from "node:crypto";
import { existsSync, mkdirSync, readdirSync, writeFileSync } from "node:fs";
import path from "node:path";
import type { JobView, NewJob } from "../../src/lib/api/jobs";
import type { Recording } from "../../src/lib/core/session/schema";
import { config } from "../../src/lib/server/config";
import { startImport, startJob } from "../../src/lib/server/jobs/order";
import { startRenders } from "../../src/lib/server/jobs/renders";
import { queue } from "../../src/lib/server/jobs/queue";
import { documentNow } from "./project";

/** Waits until a job has ended. */
export async function ended(id: string): Promise<JobView> {
  for (;;) {
    const job = await queue.find(id);
    if (job.endedAt !== null) return job;
    await new Promise((resolve) => setTimeout(resolve, 10));
  }
}

/** A job's end is told first, then what it worked with is removed. */
export async function cleared(id: string): Promise<void> {
  const scratch = path.join(config.dataFolder, "scratch", id);
  for (let i = 0; i < 400 && existsSync(scratch); i++) await new Promise((resolve) => setTimeout(resolve, 5));
}

/** What an upload leaves for the import job. Returns its id. */
export function uploaded(bytes: Uint8Array): string {
  const id = randomBytes(16).toString("hex");
  const uploads = path.join(config.dataFolder, "uploads");
  mkdirSync(uploads, { recursive: true });
  writeFileSync(path.join(uploads, id), bytes);
  return id;
}

/** Imports a file, and waits until that is over. */
export async function importing(projectId: string, fileName: string, bytes: Uint8Array): Promise<JobView> {
  const job = await ended((await startImport(projectId, { uploadId: uploaded(bytes), fileName })).id);
  await cleared(job.id);
  return job;
}

/** Imports a file that can be used. */
export async function imported(projectId: string, fileName: string, bytes: Uint8Array): Promise<Recording> {
  const { error, result } = await importing(projectId, fileName, bytes);
  const { recordingId } = (result ?? {}) as { recordingId?: string };
  const recording = (await documentNow(projectId)).get("recordings", recordingId ?? "");
  if (!recording) throw new Error(error ?? `There is no recording of "${fileName}".`);
  return recording;
}

/** Orders a job, and waits until it is over. */
export async function ordered(projectId: string, what: NewJob): Promise<JobView> {
  return ended((await startJob(projectId, what)).id);
}

/** Renders a clip, and waits until that is over. */
export async function rendered(
  projectId: string,
  clipId: string,
  handles: number,
  tail: number | "auto"
): Promise<JobView> {
  const wanted = {
    into: "each" as const,
    clipIds: [clipId],
    upTo: null,
    handles,
    tail,
    shared: false,
    name: null
  };
  const [job] = await startRenders(projectId, wanted);
  if (!job) throw new Error("nothing was rendered");
  return ended(job.id);
}

/** Every file of the media folder, by its path in it. */
export function mediaFiles(): string[] {
  const media = path.join(config.dataFolder, "media");
  return existsSync(media)
    ? readdirSync(media, { recursive: true })
        .map(String)
        .filter((f) => f.includes("."))
    : [];
}
