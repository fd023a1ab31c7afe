import { EventEmitter } from "node:events";
import type { ProjectNews } from "$lib/api/types";

const bus = new EventEmitter().setMaxListeners(0);

export function publish(projectId: string, event: ProjectNews): void {
  bus.emit(projectId, event);
}

/** Listens to a project until the returned function is called. */
export function subscribe(projectId: string, listener: (event: ProjectNews) => void): () => void {
  bus.on(projectId, listener);
  return () => bus.off(projectId, listener);
}
