// Deliveries of a project: ordering them, and what became of them.
import { randomUUID } from "node:crypto";
import type { DeliveredFile, DeliveryView, NewDelivery } from "$lib/api/delivery";
import type { JobView } from "$lib/api/jobs";
import { itemsOf } from "$lib/core/delivery/items";
import { namesOf, patternFault } from "$lib/core/delivery/names";
import { settingsFault } from "$lib/core/delivery/settings";
import { UserFault } from "../faults";
import { writeBatch } from "../delivery/batch";
import { DELIVER_TITLE, deliveredPath } from "../jobs/kinds/deliver";
import { queue } from "../jobs/queue";
import { wake } from "../jobs/runner";
import { loadProject, needProject } from "./projects";

/** So many files are seen of a project, the newest first. */
const MOST_SEEN = 500;

function view(job: JobView): DeliveryView {
  const delivered = job.state === "done" ? (job.result as DeliveredFile) : null;
  const fileName = delivered?.fileName ?? job.title.slice(DELIVER_TITLE.length);
  return { job, fileName, delivered, kept: delivered !== null && deliveredPath(job.id) !== undefined };
}

/** What was delivered of a project, and what is under way; the newest first. */
export async function deliveriesOf(projectId: string): Promise<DeliveryView[]> {
  await needProject(projectId);
  return (await queue.ofKind(projectId, "deliver", MOST_SEEN)).map(view);
}

/**
 * Orders files, one job each. Names that files of this project have, or are about to have, get a number behind them.
 * @throws UserFault 422 when there is nothing to deliver, or the settings cannot be carried out
 */
export async function orderDelivery(projectId: string, order: NewDelivery): Promise<DeliveryView[]> {
  const { wanted, settings } = order;
  const { document } = await loadProject(projectId);
  const fault = settingsFault(settings) ?? patternFault(settings.pattern);
  if (fault) throw new UserFault(422, fault);
  const items = itemsOf(document, wanted);
  if (items.length === 0)
    throw new UserFault(422, "There is nothing to deliver: nothing of what was chosen sounds.");
  const date = new Date();
  const known = (await deliveriesOf(projectId)).filter(({ job, kept }) => kept || job.endedAt === null);
  const taken = known.map(({ fileName }) => fileName);
  const names = namesOf(document, items, settings, date, taken);
  const batch = randomUUID();
  writeBatch(batch, { date, settings, document: document.toJson() });
  const orders = items.map((item, i) => {
    const fileName = names[i] ?? item.name;
    const title = `${DELIVER_TITLE}${fileName}`;
    return { projectId, kind: "deliver", title, order: { kind: "deliver", batch, item, fileName } };
  });
  const jobs = await queue.enqueueAll(orders);
  wake();
  return jobs.map(view);
}
