import { EventEmitter } from "node:events";
import type { JobView } from "$lib/api/jobs";
import type { ProjectNews } from "$lib/api/types";

/** What the pages of a project are told while they are open. */
export type ProjectEvent = ProjectNews | { readonly type: "job"; readonly job: JobView };

const bus = new EventEmitter().setMaxListeners(0);

export function publish(projectId: string, event: ProjectEvent): void {
  bus.emit(projectId, event);
}

/** Listens to a project until the returned function is called. */
export function subscribe(projectId: string, listener: (event: ProjectEvent) => void): () => void {
  bus.on(projectId, listener);
  return () => bus.off(projectId, listener);
}
