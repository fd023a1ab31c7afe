// Resumable uploads (tus 1.0). The client's file name is metadata only; the server chooses where bytes go.
import { mkdirSync } from "node:fs";
import { FileStore } from "@tus/file-store";
import { Server } from "@tus/server";
import { faultSentence } from "$lib/core/formats/fault";
import { config } from "./config";
import { sentenceOf, UserFault } from "./faults";
import { startJob } from "./jobs/jobs";
import { uploadsFolder } from "./media/paths";
import { projectState } from "./services/projects";
import { needRoom } from "./services/space";

const MAX_NAME = 300;
let server: Server | undefined;

function refuse(error: unknown): never {
  const status = error instanceof UserFault ? error.status : 500;
  const sentence = sentenceOf(error) ?? "The upload failed. Nothing was changed.";
  throw Object.assign(new Error(sentence), { status_code: status, body: sentence });
}

function make(): Server {
  const directory = uploadsFolder(config.dataFolder);
  mkdirSync(directory, { recursive: true });
  return new Server({
    path: "/api/uploads",
    relativeLocation: true,
    datastore: new FileStore({ directory, expirationPeriodInMilliseconds: 86400000 }),
    async onUploadCreate(_request, upload) {
      const fileName = (upload.metadata?.filename ?? "").slice(0, MAX_NAME);
      try {
        if (!fileName) throw new UserFault(400, "An upload needs the name of its file.");
        await projectState(upload.metadata?.projectId ?? "");
        if (!upload.size) throw new UserFault(422, faultSentence(fileName, "it is empty"));
        needRoom(upload.size, `"${fileName}" was not imported`);
      } catch (error) {
        refuse(error);
      }
      return { metadata: { filename: fileName, projectId: upload.metadata?.projectId ?? "" } };
    },
    async onUploadFinish(_request, upload) {
      const fileName = upload.metadata?.filename ?? "";
      try {
        const job = await startJob(
          upload.metadata?.projectId ?? "",
          { kind: "import", uploadId: upload.id, fileName },
          `Import ${fileName}`
        );
        return { headers: { "X-Job": job.id } };
      } catch (error) {
        refuse(error);
      }
    },
    onResponseError(_request, error) {
      const sentence = sentenceOf(error);
      return sentence ? { status_code: 507, body: sentence } : undefined;
    }
  });
}

/** Answers one request of the upload protocol. */
export function handleUpload(request: Request): Promise<Response> {
  server ??= make();
  return server.handleWeb(request);
}

/** Removes uploads that were given up a day ago. */
export async function removeAbandonedUploads(): Promise<void> {
  server ??= make();
  await server.cleanUpExpiredUploads();
}
