/** Days that projects and recordings lie in the bin. */
export const BIN_DAYS = 30;

/** Bytes of a project's recordings, by their ids. */
export type SizesView = Readonly<Record<string, number>>;

/** What takes how much of the data folder. */
export interface SpaceView {
  /** Most bytes that there may be; null: no limit. */
  readonly limit: number | null;
  readonly total: number;
  readonly parts: readonly SpacePart[];
}

export interface SpacePart {
  readonly id: string;
  readonly bytes: number;
  /** What it is, and when it goes. */
  readonly rule: string;
}
