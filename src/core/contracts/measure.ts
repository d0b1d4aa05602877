/** One number of a character beside what the brief wants of it. Lengths are in the brief's unit. */
export interface Measure<Group extends string = string> {
  readonly id: string;
  readonly group: Group;
  readonly label: string;
  readonly value: number | string;
  readonly target: number | string | null;
  readonly tolerance: number | null;
  readonly unit: string;
  /** `told`: the brief asks nothing of it. */
  readonly state: 'met' | 'off' | 'told';
  /** Node that it is measured on, −1 for the whole. */
  readonly node: number;
  /** The words under the row, where it needs them. */
  readonly hint?: string;
}
