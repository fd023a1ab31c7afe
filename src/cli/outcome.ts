/** Wrong use of the command line: exit status 2, with one line that says what. */
export class UsageFault extends Error {}

/** Something that could not be done: exit status 1, with one line that says what. */
export class CouldNot extends Error {}

/** What the working thread tells the process. */
export type Message =
  | { readonly kind: "temporary"; readonly path: string }
  | { readonly kind: "kept"; readonly path: string }
  | { readonly kind: "progress"; readonly text: string }
  | { readonly kind: "done"; readonly status: number; readonly out: string; readonly error: string };

/** What a command may do while it works. */
export interface Work {
  /** Names a file that is removed should the command be stopped, until `kept`. */
  temporary(path: string): void;
  kept(path: string): void;
  /** Shown on a terminal. share: 0 to 1 */
  progress(what: string, share: number): void;
}

/** What is printed when not all could be done. */
export interface Printed {
  readonly out: string;
  /** One line that says what could not; empty: all was done. */
  readonly error: string;
}

export interface Command {
  /** "measure FILE… [options]" */
  readonly usage: string;
  /** One line for the list of commands. */
  readonly summary: string;
  /** Lines about options and what comes out. */
  readonly help: readonly string[];
  /** @returns what is printed. @throws UsageFault, CouldNot */
  run(args: readonly string[], work: Work): Promise<string | Printed> | string;
}
