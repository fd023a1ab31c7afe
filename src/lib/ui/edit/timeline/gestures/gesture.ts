/** Where the pointer is, in pixels from the lanes' upper left corner, and which keys are held. */
export interface LanePoint {
  readonly x: number;
  readonly y: number;
  /** Shift. */
  readonly shift: boolean;
  /** Ctrl, or Cmd. */
  readonly ctrl: boolean;
  /** Alt: nothing snaps. */
  readonly alt: boolean;
  /** A digit that is held: another rule for this drop. */
  readonly digit: string | null;
  /** D is held: copies are pulled. */
  readonly copy: boolean;
}

/** What goes on between pressing and letting go. It holds on to no element: those may come and go meanwhile. */
export interface Gesture {
  move(to: LanePoint): void;
  /** Makes what was shown. */
  end(): void;
  /** Takes back what was shown. */
  cancel(): void;
}
