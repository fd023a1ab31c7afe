import type { Readable } from "node:stream";
import { ZipFile } from "yazl";
import { UserFault } from "../faults";
import { deliveredPath } from "../jobs/kinds/deliver";
import { exportFileName } from "../jobs/kinds/export";
import { deliveriesOf } from "./deliveries";
import { projectName } from "./projects";

/** Delivered files as one ZIP, stored as they are: sound that is coded does not get smaller. @throws UserFault 404 when none is kept */
export async function archiveOf(
  projectId: string,
  jobIds: readonly string[]
): Promise<{ readonly name: string; readonly stream: Readable }> {
  const wanted = new Set(jobIds);
  const zip = new ZipFile();
  let count = 0;
  for (const { job, fileName } of await deliveriesOf(projectId)) {
    const file = wanted.has(job.id) ? deliveredPath(job.id) : undefined;
    if (!file) continue;
    zip.addFile(file, fileName, { compress: false });
    count++;
  }
  if (count === 0) throw new UserFault(404, "None of these files is kept any more. Deliver them again.");
  zip.end();
  return {
    name: exportFileName(await projectName(projectId), "zip"),
    stream: zip.outputStream as Readable
  };
}
