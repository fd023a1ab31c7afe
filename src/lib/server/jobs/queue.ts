// The queue of jobs over the jobs table. Runners take from it; it says what a job's end does, once.
import { randomUUID } from "node:crypto";
import { literal, Op, type Transaction } from "sequelize";
import type { JobState, JobView, JobsView } from "$lib/api/jobs";
import { database, write } from "../db/connection";
import type { JobRow, Models } from "../db/models";
import { publish } from "../events";
import { UserFault } from "../faults";

/** An order on its way into the queue. */
export interface NewOrder {
  /** Id of the job; made up when left out. */
  readonly id?: string | undefined;
  /** null: it belongs to no project. */
  readonly projectId: string | null;
  readonly kind: string;
  readonly title: string;
  readonly order: unknown;
}

/** A job that was taken to be run. */
export interface LeasedJob {
  readonly id: string;
  readonly projectId: string;
  readonly kind: string;
  readonly title: string;
  readonly order: unknown;
}

export type Settle = (
  open: ReadonlySet<string>,
  models: Models,
  transaction: Transaction
) => Promise<ReadonlyMap<string, unknown>>;

/** What every implementation of the queue does. Jobs end once: completing, failing or cancelling an ended job does nothing. */
export interface Queue {
  enqueue(order: NewOrder): Promise<JobView>;
  /** All of them, or none. */
  enqueueAll(orders: readonly NewOrder[]): Promise<JobView[]>;
  /** The oldest job that waits; with a light one also those behind it, as long as they are light and of the same project: so many at most. */
  lease(light: (job: LeasedJob) => boolean, most: number): Promise<LeasedJob[]>;
  /** Reports the share that is done, 0 to 1. */
  beat(id: string, share: number): void;
  /**
   * Ends jobs, all of them or none.
   * @param settle what else their ends do, within the same transaction; gets the ids of those that have not ended already, and is not called when
   * there are none. Returns their results by id
   */
  complete(ids: readonly string[], settle: Settle): Promise<void>;
  fail(id: string, sentence: string): Promise<void>;
  cancel(id: string): Promise<void>;
  /** Cancels a job that no one has taken yet, and returns it; undefined when it does not wait. */
  cancelWaiting(id: string): Promise<LeasedJob | undefined>;
  /** Puts jobs back that a process left in the middle. */
  requeue(id: string): Promise<void>;
}

const OPEN = ["queued", "running"] as const;
/** Instead of the order of a job that has ended: it may hold a whole document, and has done its work. */
const NO_ORDER = "null";

function view(row: JobRow, progress = row.progress): JobView {
  return {
    id: row.id,
    projectId: row.projectId,
    kind: row.kind,
    title: row.title,
    state: row.state,
    progress,
    error: row.error,
    result: row.result === null ? null : (JSON.parse(row.result) as unknown),
    endedAt: row.endedAt?.toISOString() ?? null
  };
}

function leased(row: JobRow): LeasedJob {
  const { id, kind, title } = row;
  return { id, kind, title, projectId: row.projectId ?? "", order: JSON.parse(row.payload) as unknown };
}

/** The first of some rows; with a light one those behind it, as long as they are light and of its project. */
function firstAlike(rows: readonly JobRow[], light: (job: LeasedJob) => boolean): JobRow[] {
  const [first] = rows;
  if (!first) return [];
  const other = rows.findIndex((row) => row.projectId !== first.projectId || !light(leased(row)));
  return rows.slice(0, Math.max(1, other < 0 ? rows.length : other));
}

type Values = Partial<Pick<JobRow, "state" | "progress" | "result" | "error">>;

/** Jobs of one process, in its database. */
export class TableQueue implements Queue {
  /** Progress lives in memory: a row for every beat would be a write for every beat. */
  readonly #progress = new Map<string, { readonly share: number; readonly view: JobView }>();

  async enqueue(order: NewOrder): Promise<JobView> {
    const [job] = await this.enqueueAll([order]);
    if (!job) throw new Error("The queue took nothing.");
    return job;
  }

  async enqueueAll(orders: readonly NewOrder[]): Promise<JobView[]> {
    const waiting = orders.map(({ id, projectId, kind, title, order }) => ({
      id: id ?? randomUUID(),
      projectId,
      kind,
      title,
      state: "queued" as const,
      progress: 0,
      payload: JSON.stringify(order),
      result: null,
      error: null
    }));
    const rows = await write((models, transaction) => models.Job.bulkCreate(waiting, { transaction }));
    const views = rows.map((row) => view(row));
    for (const job of views) this.#tell(job);
    return views;
  }

  #tell(job: JobView): void {
    if (job.projectId) publish(job.projectId, { type: "job", job });
  }

  async lease(light: (job: LeasedJob) => boolean, most: number): Promise<LeasedJob[]> {
    const { models } = await database();
    if ((await models.Job.count({ where: { state: "queued" } })) === 0) return [];
    const taken = await write(async (known, transaction) => {
      const rows = await known.Job.findAll({
        where: { state: "queued" },
        // Those that were ordered together are taken in their order.
        order: [["createdAt", "ASC"], literal("rowid ASC")],
        limit: most,
        transaction
      });
      const some = firstAlike(rows, light);
      const ids = some.map(({ id }) => id);
      await known.Job.update({ state: "running" }, { where: { id: ids }, transaction });
      return some;
    });
    for (const row of taken) {
      const running = { ...view(row), state: "running" as const };
      this.#progress.set(row.id, { share: 0, view: running });
      this.#tell(running);
    }
    return taken.map(leased);
  }

  beat(id: string, share: number): void {
    const known = this.#progress.get(id);
    if (!known) return;
    const job = { ...known.view, progress: share };
    this.#progress.set(id, { share, view: job });
    this.#tell(job);
  }

  #ended(row: JobRow): void {
    this.#progress.delete(row.id);
    this.#tell(view(row));
  }

  /** Ends a job, once. Returns its row if this was it. */
  async #end(
    id: string,
    settle: (models: Models, transaction: Transaction, row: JobRow) => Promise<Values>,
    states: readonly JobState[] = OPEN
  ): Promise<JobRow | undefined> {
    const row = await write(async (models, transaction) => {
      const found = await models.Job.findOne({ where: { id, state: [...states] }, transaction });
      if (!found) return undefined;
      const values = await settle(models, transaction, found);
      return found.update({ ...values, payload: NO_ORDER, endedAt: new Date() }, { transaction });
    });
    if (row) this.#ended(row);
    return row;
  }

  async complete(ids: readonly string[], settle: Settle): Promise<void> {
    const ended = await write(async (models, transaction) => {
      const rows = await models.Job.findAll({ where: { id: [...ids], state: [...OPEN] }, transaction });
      if (rows.length === 0) return [];
      const results = await settle(new Set(rows.map(({ id }) => id)), models, transaction);
      for (const row of rows)
        row.set({
          state: "done",
          progress: 1,
          payload: NO_ORDER,
          result: JSON.stringify(results.get(row.id) ?? null),
          endedAt: new Date()
        });
      await models.Job.bulkCreate(
        rows.map((row) => row.get()),
        { updateOnDuplicate: ["state", "progress", "result", "payload", "endedAt", "updatedAt"], transaction }
      );
      return rows;
    });
    for (const row of ended) this.#ended(row);
  }

  async fail(id: string, sentence: string): Promise<void> {
    await this.#end(id, () => Promise.resolve({ state: "failed", error: sentence }));
  }

  async cancel(id: string): Promise<void> {
    await this.#end(id, () => Promise.resolve({ state: "cancelled" }));
  }

  async cancelWaiting(id: string): Promise<LeasedJob | undefined> {
    let waiting: LeasedJob | undefined;
    await this.#end(
      id,
      (_models, _transaction, row) => {
        waiting = leased(row);
        return Promise.resolve({ state: "cancelled" });
      },
      ["queued"]
    );
    return waiting;
  }

  async requeue(id: string): Promise<void> {
    await write((models, transaction) =>
      models.Job.update({ state: "queued" }, { where: { id, state: "running" }, transaction })
    );
  }

  /** @throws UserFault 404 */
  async find(id: string): Promise<JobView> {
    const { models } = await database();
    const row = await models.Job.findByPk(id);
    if (!row) throw new UserFault(404, "There is no such job.");
    return view(row, this.#progress.get(id)?.share);
  }

  /** Jobs of these ids, those that are still known. */
  async views(ids: readonly string[]): Promise<JobView[]> {
    const { models } = await database();
    const rows = await models.Job.findAll({ where: { id: [...ids] } });
    return rows.map((row) => view(row, this.#progress.get(row.id)?.share));
  }

  /** Forgets jobs that ended before a moment. */
  async forget(before: Date): Promise<number> {
    return write((models, transaction) =>
      models.Job.destroy({ where: { endedAt: { [Op.lt]: before } }, transaction })
    );
  }

  /** Jobs that have not ended, the oldest first. */
  async unfinished(): Promise<JobRow[]> {
    const { models } = await database();
    return models.Job.findAll({ where: { state: [...OPEN] }, order: [["createdAt", "ASC"]] });
  }

  /** Jobs of one kind of a project, the newest first; those that were ordered together in their order. */
  async ofKind(projectId: string, kind: string, most: number): Promise<JobView[]> {
    const { models } = await database();
    const rows = await models.Job.findAll({
      where: { projectId, kind },
      order: [["createdAt", "DESC"], literal("rowid ASC")],
      limit: most
    });
    return rows.map((row) => view(row, this.#progress.get(row.id)?.share));
  }

  /** Jobs of a project under way, and those that ended after a moment: what a page that comes back has missed. */
  async ofProject(projectId: string, since: Date): Promise<JobsView> {
    const until = new Date().toISOString();
    const { models } = await database();
    const rows = await models.Job.findAll({
      where: {
        projectId,
        [Op.or]: [{ state: [...OPEN] }, { endedAt: { [Op.gte]: since } }]
      },
      order: [["createdAt", "ASC"]]
    });
    const views = rows.map((row) => view(row, this.#progress.get(row.id)?.share));
    const open = views.filter((job) => job.endedAt === null);
    return { open, ended: views.filter((job) => job.endedAt !== null), until };
  }
}

export const queue = new TableQueue();
