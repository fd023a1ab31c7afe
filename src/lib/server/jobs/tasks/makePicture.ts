import path from "node:path";
import { makePicture } from "../../media/picture";
import type { PictureTask, TaskResult, Tick } from "./task";

export async function pictureTask(task: PictureTask, tick: Tick): Promise<TaskResult> {
  await makePicture(task.file, path.join(task.scratch, task.name), task.scratch, task.seconds, tick);
  return { frames: 0 };
}
