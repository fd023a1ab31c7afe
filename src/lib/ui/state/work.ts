/** Something under way that takes longer. */
export interface Work {
  readonly id: string;
  /** Kind of the job; "upload" for a file on its way. */
  readonly kind: string;
  readonly title: string;
  readonly progress: number;
  readonly cancel: () => unknown;
}
