/** What is wrong with the data folder as a whole, for as long as it is. */
export const condition: {
  /** The database cannot be read: the sentence for it. */
  damaged: string | null;
} = { damaged: null };
