import { notices } from "../../shared/notices.svelte";
import type { Editor } from "../editor.svelte";

/** Something that can be done, by name. */
export interface Action {
  readonly id: string;
  readonly name: string;
  /** Keys as tinykeys writes them. */
  readonly keys?: string;
  /** Whether its keys work on every screen; else on the edit screen alone. */
  readonly anywhere?: boolean;
  readonly enabled: (editor: Editor) => boolean;
  readonly run: (editor: Editor) => void;
}

/** Lets an action end later; what goes wrong is told. */
export function later(work: Promise<unknown>): void {
  work.catch((error: unknown) => notices.fault(error));
}
