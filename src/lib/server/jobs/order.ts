// Orders of pages, made into jobs.
import type { JobView, NewJob } from "$lib/api/jobs";
import { programmeOver } from "$lib/core/render/graph";
import { findClip } from "$lib/core/session/lookup";
import { UserFault } from "../faults";
import { loadProject } from "../services/projects";
import { queue, type NewOrder } from "./queue";
import { wake } from "./runner";

async function orderOf(
  projectId: string,
  wanted: Exclude<NewJob, { kind: "soundTrack" }>
): Promise<NewOrder> {
  const { document } = await loadProject(projectId);
  if (wanted.kind === "export") {
    const end = Math.max(programmeOver(document), 1);
    if (wanted.to <= wanted.from) throw new UserFault(422, "The range to export is empty.");
    // A range may end behind the last clip, but not by more than the programme is long.
    if (wanted.to > 2 * end + 600 * document.sampleRate)
      throw new UserFault(422, "The range to export ends far behind the programme.");
    const order = { ...wanted, document: document.toJson() };
    return { projectId, kind: "export", title: `Export ${document.name}`, order };
  }
  if (wanted.kind === "picture") {
    const recording = document.get("recordings", wanted.recordingId);
    if (!recording?.about?.video || recording.media === null)
      throw new UserFault(404, "The recording has no video.");
    const { id: recordingId, name, media, frames, sampleRate } = recording;
    const order = { kind: "picture", recordingId, name, media, seconds: frames / sampleRate };
    return { projectId, kind: "picture", title: `Picture of ${name}`, order };
  }
  const clip = findClip(document, wanted.clipId)?.clip;
  if (!clip) throw new UserFault(404, "The clip is no longer there.");
  return { projectId, kind: "measure", title: `Measure ${clip.name}`, order: { kind: "measure", clip } };
}

/** Puts a job into the queue. @throws UserFault when it asks for what is not there */
export async function startJob(projectId: string, wanted: NewJob): Promise<JobView> {
  if (wanted.kind === "soundTrack") return startImportOfTrack(projectId, wanted.recordingId, wanted.stream);
  const job = await queue.enqueue(await orderOf(projectId, wanted));
  wake();
  return job;
}

/** A file that has arrived, and what it is to become. */
export interface Arrived {
  /** Id of its import; made up when left out. */
  readonly jobId?: string;
  readonly uploadId: string;
  readonly fileName: string;
  /** Folder of the shelf; empty: the top. */
  readonly folder?: string;
  readonly partial?: boolean;
}

/**
 * Puts the imports of files that have arrived into the queue.
 * @param short whether they are so short that they may be taken and end together
 */
export async function startImports(
  projectId: string,
  files: readonly Arrived[],
  short: boolean
): Promise<JobView[]> {
  const jobs = await queue.enqueueAll(
    files.map(({ jobId, uploadId, fileName, folder = "", partial = false }) => ({
      id: jobId,
      projectId,
      kind: "import",
      title: `Import ${fileName}`,
      order: { kind: "import", uploadId, fileName, folder, partial, short }
    }))
  );
  wake();
  return jobs;
}

/** Puts the import of a finished upload into the queue. */
export async function startImport(projectId: string, file: Arrived): Promise<JobView> {
  const [job] = await startImports(projectId, [file], false);
  if (!job) throw new Error("The queue took nothing.");
  return job;
}

/** Puts the opening of a project archive into the queue. */
export async function startUnpack(uploadId: string, fileName: string): Promise<JobView> {
  const order = { kind: "unpack", uploadId, fileName };
  const job = await queue.enqueue({ projectId: null, kind: "unpack", title: `Open ${fileName}`, order });
  wake();
  return job;
}

/** Takes another sound track of the file that a recording came from. @throws UserFault when there is none */
async function startImportOfTrack(projectId: string, recordingId: string, stream: number): Promise<JobView> {
  const { document } = await loadProject(projectId);
  const recording = document.get("recordings", recordingId);
  const track = recording?.about?.sounds.find((sound) => sound.stream === stream);
  if (!recording?.about || recording.media === null || !track)
    throw new UserFault(404, "There is no such sound track.");
  const { file: fileName } = recording.about;
  const order = {
    kind: "import",
    uploadId: "",
    fileName,
    folder: recording.folder ?? "",
    source: recording.media,
    stream
  };
  const title = `Import sound ${track.name} of ${fileName}`;
  const job = await queue.enqueue({ projectId, kind: "import", title, order });
  wake();
  return job;
}
