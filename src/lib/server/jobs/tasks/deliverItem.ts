import { Document } from "$lib/core/session/document";
import { measurementToJson } from "$lib/core/measure/json";
import { deliver } from "../../delivery/deliver";
import type { DeliverResult, DeliverTask, Tick } from "./task";

export async function deliverItem(task: DeliverTask, tick: Tick): Promise<DeliverResult> {
  const { document, item, settings, files, scratch, date, video } = task;
  const made = await deliver(
    {
      document: Document.fromJson(document),
      item,
      settings,
      files,
      video,
      folder: scratch,
      date: new Date(date)
    },
    tick
  );
  return { ...made, measurement: measurementToJson(made.measurement) };
}
