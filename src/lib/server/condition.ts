import type { LostChanges } from "./db/witness";

/** What is wrong with the data folder as a whole, for as long as it is. */
export const condition: {
  /** The database cannot be read: the sentence for it. */
  damaged: string | null;
  /** Projects that the database brought back older than they were confirmed to be, until that has been read. */
  lost: readonly LostChanges[];
} = { damaged: null, lost: [] };
