// What is done at every start, and from time to time: taking up what was left in the middle, checking, clearing away.
import { existsSync, mkdirSync, readdirSync, rmSync, statSync } from "node:fs";
import path from "node:path";
import { config } from "./config";
import { backupIfDue } from "./db/backups";
import { takeUpBatches } from "./batches/end";
import { clearBatches } from "./batches/kept";
import { condition } from "./condition";
import { database } from "./db/connection";
import { beginWitness, endWitness, lostChanges, readWitness } from "./db/witness";
import { BATCH_ENDING } from "./delivery/batch";
import { EXPORT_DAYS } from "$lib/api/exportDays";
import { log, logged } from "./log";
import { clearHeard } from "./media/heard";
import { exportsFolder, scratchFolder } from "./media/paths";
import { MediaStore } from "./media/store";
import { queue } from "./jobs/queue";
import { resumeJobs, startRunner, wake } from "./jobs/runner";
import { registerFound, collectUnused } from "./services/collection";
import { checkSome } from "./services/condition";
import { checkProjects } from "./services/projectCheck";
import { emptyRecordingBins } from "./services/recordingBin";
import { emptyOldBin } from "./services/projects";
import { takeUpUploads } from "./uploads";

const DAY_MS = 86400000;
const EVERY_MS = 600000;
const AGAIN_MS = 5000;
const FIRST_MS = 2000;
const CHECKED_AT_ONCE = 20;
const CHECK_DAYS = 30;
const JOB_DAYS = 30;

/** Removes exports that are old or that no job made. */
async function clearExports(): Promise<void> {
  const folder = exportsFolder(config.dataFolder);
  if (!existsSync(folder)) return;
  const { models } = await database();
  const jobs = new Set(
    (await models.Job.findAll({ where: { kind: ["export", "deliver"] }, attributes: ["id"] })).map(
      (j) => j.id
    )
  );
  for (const name of readdirSync(folder)) {
    const file = path.join(folder, name);
    const old = Date.now() - statSync(file).mtimeMs > EXPORT_DAYS * DAY_MS;
    // What the jobs of a delivery share belongs to none of them: it goes by its age.
    const known = name.endsWith(BATCH_ENDING) || jobs.has(path.parse(name).name);
    if (old || !known) rmSync(file, { force: true });
  }
}

/** Each step by itself: what fails is logged, the others go on. */
async function step(what: string, work: () => Promise<unknown>): Promise<boolean> {
  try {
    await work();
    return true;
  } catch (error) {
    log.error({ error: String((error as Error).stack ?? error) }, `${what} failed`);
    return false;
  }
}

let timer: ReturnType<typeof setInterval> | undefined;
let background = new AbortController();
let jobsTakenUp = false;

async function clearUp(): Promise<void> {
  await step("clearing exports", clearExports);
  await step("clearing what was heard", () => Promise.resolve(clearHeard()));
  await step("forgetting batches", () => Promise.resolve(clearBatches(JOB_DAYS)));
  await step("forgetting jobs", () => queue.forget(new Date(Date.now() - JOB_DAYS * DAY_MS)));
  await step("emptying the bin", () => emptyOldBin());
  await step("emptying bins of recordings", () => emptyRecordingBins());
  await step("collecting recordings", () => collectUnused());
  await step("backup", () => backupIfDue());
  await step("checking projects", () => checkProjects(background.signal));
  await step("checking recordings", () =>
    checkSome(CHECKED_AT_ONCE, new Date(Date.now() - CHECK_DAYS * DAY_MS), background.signal)
  );
}

/** Whether the database is as new as what was confirmed; if not, the home page says what is missing. */
async function compareWithWitness(): Promise<void> {
  const { models } = await database();
  const rows = await models.Project.findAll({ attributes: ["id", "name", "revision"] });
  condition.lost = lostChanges(readWitness(), rows);
  if (condition.lost.length > 0) log.error({ lost: condition.lost }, "the database lost confirmed changes");
  await step("noting what is confirmed", () => {
    beginWitness(new Map(rows.map((row) => [row.id, row.revision])));
    return Promise.resolve();
  });
}

/** Takes up what was left in the middle; again after a while, as long as that fails: the disk may be full. */
async function takeUp(): Promise<void> {
  // Jobs of the process before are sorted out while none can run: else one that has just begun would be taken for one of them.
  jobsTakenUp ||= await step("taking up jobs", resumeJobs);
  if (jobsTakenUp) startRunner();
  const done =
    jobsTakenUp &&
    (await step("taking up batches", () => takeUpBatches().then(wake))) &&
    (await step("registering recordings", registerFound)) &&
    (await step("taking up uploads", () => takeUpUploads()));
  if (!done && !background.signal.aborted) {
    const again = () => {
      takeUp().catch(logged("taking up"));
    };
    setTimeout(again, AGAIN_MS).unref();
  }
}

/** Makes the data folder ready for work. @throws FolderFault when it cannot be worked with */
export async function begin(): Promise<void> {
  await database();
  background = new AbortController();
  jobsTakenUp = false;
  await compareWithWitness();
  await step("clearing scratch", () => {
    rmSync(scratchFolder(config.dataFolder), { recursive: true, force: true });
    mkdirSync(scratchFolder(config.dataFolder), { recursive: true });
    new MediaStore(config.dataFolder).sweep();
    return Promise.resolve();
  });
  await takeUp();
  const clear = () => {
    clearUp().catch(logged("clearing up"));
  };
  timer = setInterval(clear, EVERY_MS);
  timer.unref();
  setTimeout(clear, FIRST_MS).unref();
}

/** Ends the work in the background. */
export function rest(): void {
  clearInterval(timer);
  background.abort();
  endWitness();
}
