// Resumable uploads (tus 1.0). The client's file name is metadata only; the server chooses where bytes go.
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync } from "node:fs";
import path from "node:path";
import { FileStore } from "@tus/file-store";
import { Server } from "@tus/server";
import { faultSentence } from "$lib/core/formats/fault";
import { config } from "./config";
import { isFull, sentenceOf, UserFault } from "./faults";
import { startImport, startUnpack } from "./jobs/order";
import { warmUp } from "./jobs/pool";
import { queue } from "./jobs/queue";
import { log } from "./log";
import { uploadsFolder } from "./media/paths";
import { needProject } from "./services/projects";
import { reserve, reserveAgain } from "./media/space";
import { shelfFolder } from "./shelfFolder";
import { MOST_FILE_NAME, uploadFile } from "./uploadFiles";

/** An upload that was given up is kept this long: until then it can go on. */
export const UPLOAD_HOURS = 24;
let server: Server | undefined;
/** Uploads by the requests that announced them. A short one comes with it: where that fails, no one knows where it could go on. */
const announced = new WeakMap<object, string>();
/** Gives back the room that an upload was promised. */
const rooms = new Map<string, () => void>();

function refuse(error: unknown): never {
  const status = error instanceof UserFault ? error.status : sentenceOf(error) ? 507 : 500;
  const sentence = sentenceOf(error) ?? "The upload failed. Nothing was changed.";
  throw Object.assign(new Error(sentence), { status_code: status, body: sentence });
}

function sizeOf(uploadId: string): number {
  return statSync(uploadFile(uploadId), { throwIfNoEntry: false })?.size ?? 0;
}

function free(uploadId: string): void {
  rooms.get(uploadId)?.();
  rooms.delete(uploadId);
}

function remove(uploadId: string): void {
  free(uploadId);
  rmSync(uploadFile(uploadId), { force: true });
  rmSync(`${uploadFile(uploadId)}.json`, { force: true });
}

function make(): Server {
  const directory = uploadsFolder(config.dataFolder);
  mkdirSync(directory, { recursive: true });
  return new Server({
    path: "/api/uploads",
    relativeLocation: true,
    datastore: new FileStore({ directory, expirationPeriodInMilliseconds: UPLOAD_HOURS * 3600000 }),
    async onUploadCreate(request, upload) {
      const fileName = (upload.metadata?.filename ?? "").slice(0, MOST_FILE_NAME);
      const projectId = upload.metadata?.projectId ?? "";
      const archive = upload.metadata?.archive === "1";
      const partial = upload.metadata?.partial === "1" ? "1" : "";
      const folder = shelfFolder(upload.metadata?.folder);
      try {
        if (!fileName) throw new UserFault(400, "An upload needs the name of its file.");
        if (!archive) await needProject(projectId);
        if (!upload.size) throw new UserFault(422, faultSentence(fileName, "it is empty"));
        const { id } = upload;
        announced.set(request, id);
        rooms.set(
          id,
          reserve(upload.size, `"${fileName}" was not imported`, () => sizeOf(id))
        );
      } catch (error) {
        refuse(error);
      }
      return { metadata: { filename: fileName, folder, projectId, archive: archive ? "1" : "", partial } };
    },
    async onUploadFinish(_request, upload) {
      const fileName = upload.metadata?.filename ?? "";
      try {
        free(upload.id);
        const job =
          upload.metadata?.archive === "1"
            ? await startUnpack(upload.id, fileName)
            : await startImport(upload.metadata?.projectId ?? "", {
                uploadId: upload.id,
                fileName,
                folder: upload.metadata?.folder ?? "",
                partial: upload.metadata?.partial === "1"
              });
        return { headers: { "X-Job": job.id } };
      } catch (error) {
        // The upload is whole and stays: its job is made at the next start at the latest.
        refuse(error);
      }
    },
    onResponseError(request, error) {
      const short = announced.get(request);
      if (short !== undefined) remove(short);
      const sentence = sentenceOf(error);
      if (!sentence) return undefined;
      // What has come of it would only fill the disk further.
      if (isFull(error)) {
        const id = new URL(request.url).pathname.split("/").pop() ?? "";
        if (/^[0-9a-f]+$/.test(id)) remove(id);
      }
      return { status_code: 507, body: sentence };
    }
  });
}

/** Whether a request brings the rest of its file, which is imported then. */
function endsUpload(request: Request, id: string): boolean {
  const brought = Number(request.headers.get("content-length") ?? 0);
  if (request.method === "POST")
    return brought > 0 && brought >= Number(request.headers.get("upload-length"));
  if (request.method !== "PATCH" || id === "uploads") return false;
  const info = infoOf(`${uploadFile(id)}.json`);
  return info !== undefined && Number(request.headers.get("upload-offset")) + brought >= info.size;
}

/** Answers one request of the upload protocol. */
export async function handleUpload(request: Request): Promise<Response> {
  server ??= make();
  const id = new URL(request.url).pathname.split("/").pop() ?? "";
  if (id !== "uploads") {
    try {
      uploadFile(id);
    } catch {
      return new Response("There is no such upload.", { status: 404 });
    }
  }
  if (request.method === "DELETE") free(id);
  else if (endsUpload(request, id)) warmUp();
  return server.handleWeb(request);
}

interface UploadInfo {
  readonly size: number;
  readonly metadata: {
    readonly filename: string;
    readonly folder?: string;
    readonly archive?: string;
    readonly partial?: string;
    readonly projectId: string;
  };
}

function infoOf(file: string): UploadInfo | undefined {
  try {
    return JSON.parse(readFileSync(file, "utf8")) as UploadInfo;
  } catch {
    return undefined;
  }
}

function takenUp(uploadId: string, { metadata }: UploadInfo): Promise<unknown> {
  const { filename: fileName, folder, projectId } = metadata;
  return metadata.archive === "1"
    ? startUnpack(uploadId, fileName)
    : startImport(projectId, { uploadId, fileName, folder, partial: metadata.partial === "1" });
}

/**
 * After a start: complete uploads without a job get theirs, those under way keep their room, and what is left of others goes.
 */
export async function takeUpUploads(now = Date.now()): Promise<void> {
  const folder = uploadsFolder(config.dataFolder);
  if (!existsSync(folder)) return;
  const jobs = new Set(
    (await queue.unfinished())
      .map((row) => JSON.parse(row.payload) as { uploadId?: string })
      .map((order) => order.uploadId)
  );
  for (const name of readdirSync(folder)) {
    if (!/^[0-9a-f]{16,64}$/.test(name)) continue;
    if (jobs.has(name)) continue;
    const info = infoOf(path.join(folder, `${name}.json`));
    const old = now - statSync(path.join(folder, name)).mtimeMs > UPLOAD_HOURS * 3600000;
    if (!info || old) remove(name);
    else if (sizeOf(name) < info.size)
      rooms.set(
        name,
        reserveAgain(info.size, () => sizeOf(name))
      );
    else
      await takenUp(name, info).catch((error: unknown) =>
        log.error({ upload: name, error: String(error) }, "import of a complete upload could not be started")
      );
  }
  for (const name of readdirSync(folder))
    if (name.endsWith(".json") && !existsSync(path.join(folder, name.slice(0, -5))))
      rmSync(path.join(folder, name), { force: true });
}
