/** One row of the bench: what was measured, and whether it is within its budget. */
export interface BenchRow {
  readonly work: string;
  readonly measured: string;
  readonly budget: string;
  readonly holds: boolean;
}
