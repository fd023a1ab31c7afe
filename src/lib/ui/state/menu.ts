import type { MenuKind } from "./actions/menus";

/** What a menu was opened on, when it is not what is selected. */
export interface Target {
  readonly table: "tracks" | "sections" | "recordings";
  readonly id: string;
}

/** A menu that is open. */
export interface Menu {
  readonly x: number;
  readonly y: number;
  readonly kind: MenuKind;
  readonly label: string;
  readonly target: Target | null;
  /** Where the focus goes when it closes. */
  readonly back: HTMLElement | null;
}
