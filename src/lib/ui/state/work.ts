/** Something under way that takes longer. */
export interface Work {
  readonly id: string;
  /** Kind of the job. */
  readonly kind: string;
  readonly title: string;
  readonly progress: number;
  readonly cancel: () => unknown;
}
