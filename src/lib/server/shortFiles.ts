// Many short files that come in one request: a folder of thousands would else be thousands of requests and edits.
import { mkdirSync, rmSync, writeFileSync } from "node:fs";
import { faultSentence } from "$lib/core/formats/fault";
import type { JobView } from "$lib/api/jobs";
import { shortFilesSchema, type ShortFile, type ShortFileAnswer } from "$lib/api/shortFiles";
import { config } from "./config";
import { UserFault } from "./faults";
import { startImports, type Arrived } from "./jobs/order";
import { queue } from "./jobs/queue";
import { cancelJob } from "./jobs/runner";
import { uploadsFolder } from "./media/paths";
import { reserve } from "./media/space";
import { needProject } from "./services/projects";
import { shelfFolder } from "./shelfFolder";
import { MOST_FILE_NAME, uploadFile } from "./uploadFiles";

interface Given extends ShortFile {
  readonly bytes: Uint8Array;
}

const NEWLINE = 10;

/** @throws UserFault 400 when the body is not what such a request holds */
function parsed(body: Uint8Array): Given[] {
  const end = body.indexOf(NEWLINE);
  let told: unknown;
  try {
    told = JSON.parse(new TextDecoder().decode(body.subarray(0, Math.max(0, end))));
  } catch {
    throw new UserFault(400, "The request does not begin with a line that tells its files.");
  }
  const { success, data } = shortFilesSchema.safeParse(told);
  if (!success) throw new UserFault(400, "The files of the request are not told as they should be.");
  let at = end + 1;
  const files = data.map((file) => ({ ...file, bytes: body.subarray(at, (at += file.size)) }));
  if (at !== body.length) throw new UserFault(400, "The request is not as long as its files.");
  return files;
}

/** Writes files to where uploads lie, all of them or none. */
function written(files: readonly Given[]): Arrived[] {
  mkdirSync(uploadsFolder(config.dataFolder), { recursive: true });
  const made: Arrived[] = [];
  try {
    for (const { key, name, folder, partial, bytes } of files) {
      const uploadId = key.replaceAll("-", "");
      const fileName = name.slice(0, MOST_FILE_NAME);
      made.push({ jobId: key, uploadId, fileName, folder: shelfFolder(folder), partial });
      writeFileSync(uploadFile(uploadId), bytes);
    }
    return made;
  } catch (error) {
    forget(made);
    throw error;
  }
}

function forget(files: readonly Arrived[]): void {
  for (const { uploadId } of files) rmSync(uploadFile(uploadId), { force: true });
}

async function imported(projectId: string, files: readonly Given[]): Promise<JobView[]> {
  const [only] = files;
  if (!only) return [];
  const what = files.length === 1 ? `"${only.name}" was` : `${files.length} files were`;
  const bytes = files.reduce((sum, { size }) => sum + size, 0);
  const release = reserve(bytes, `${what} not imported`);
  try {
    const arrived = written(files);
    return await startImports(projectId, arrived, true).catch((error: unknown) => {
      forget(arrived);
      throw error;
    });
  } finally {
    release();
  }
}

/** Keys of files that were given up, the oldest first: they may be on their way still. */
const givenUp = new Set<string>();
const MOST_GIVEN_UP = 10000;

/**
 * Takes the files of a request; each is imported by a job of its own. Those that were taken before are not taken again. Answers what became of
 * each, in their order.
 * @throws UserFault 404 when there is no such project, 400 when the request is not right, 507 when there is no room
 */
export function takeShortFiles(projectId: string, body: Uint8Array): Promise<ShortFileAnswer[]> {
  const taken = before.then(() => take(projectId, body));
  before = taken.then(
    () => undefined,
    () => undefined
  );
  return taken;
}

/** The request before, which may be of the same files: one after the other they are taken once. */
let before: Promise<void> = Promise.resolve();

async function take(projectId: string, body: Uint8Array): Promise<ShortFileAnswer[]> {
  await needProject(projectId);
  const files = parsed(body);
  const jobs = new Map<string, JobView>();
  for (const job of await queue.views(files.map(({ key }) => key))) jobs.set(job.id, job);
  if ([...jobs.values()].some((job) => job.kind !== "import" || job.projectId !== projectId))
    throw new UserFault(400, "A file of the request has the key of something else.");
  const fresh = files.filter(({ key, size }) => size > 0 && !jobs.has(key) && !givenUp.has(key));
  for (const job of await imported(projectId, fresh)) {
    jobs.set(job.id, job);
    // It was given up while its job was made.
    if (givenUp.has(job.id)) await stop(job.id);
  }
  return files.map(({ key, name, size }) => {
    if (givenUp.has(key)) return { givenUp: true };
    const job = jobs.get(key);
    return size > 0 && job ? { job } : { refused: faultSentence(name, "it is empty") };
  });
}

/**
 * Gives a file up that was sent, or is on its way.
 * @throws UserFault 409 when it has been imported already
 */
export async function giveUpShortFile(key: string): Promise<void> {
  givenUp.add(key);
  const [oldest] = givenUp;
  if (givenUp.size > MOST_GIVEN_UP && oldest !== undefined) givenUp.delete(oldest);
  const [job] = await queue.views([key]);
  if (job && job.state !== "failed" && job.state !== "cancelled" && !(await stop(key)))
    throw new UserFault(409, `${job.title}: it is in already.`);
}

/** Stops the import of a file that was given up. Returns whether it could be: else it is in, and stays. */
async function stop(key: string): Promise<boolean> {
  try {
    await cancelJob(key);
    return true;
  } catch (error) {
    if (!(error instanceof UserFault) || error.status !== 409) throw error;
    givenUp.delete(key);
    return false;
  }
}
