import { create } from 'zustand';
import type { ElementsOf } from '@/core/character/model';
import type { Pull } from '@/core/rooms/weights/figures';

/** The weights that were taken from a choice, to be given to another: bones with their shares, which sum to one. */
interface CopiedRow {
  readonly row: readonly { readonly bone: number; readonly share: number }[] | null;
}

export const useCopiedRow = create<CopiedRow>(() => ({ row: null }));

/** Takes the mean of what pulls a choice; of a single point its very list. */
export function copyRow(pulls: readonly Pull[]): void {
  const sum = pulls.reduce((total, { mean }) => total + mean, 0);
  useCopiedRow.setState({
    row: sum > 0 ? pulls.map(({ bone, mean }) => ({ bone, share: mean / sum })) : null,
  });
}

/** The copied list on every chosen point, as the parameters of the remedy that puts rows on points. */
export function paramsOfPaste(
  row: NonNullable<CopiedRow['row']>,
  points: readonly ElementsOf[],
): Record<string, unknown> {
  return {
    bones: row.map(({ bone }) => bone),
    points: points.map(({ node, ids }) => {
      const offsets = new Uint32Array(ids.length + 1).map((_, i) => i * row.length);
      const joint = new Uint32Array(ids.length * row.length).map((_, i) => i % row.length);
      const weight = new Float32Array(joint.length).map((_, i) => row[i % row.length].share);
      return { node, ids, rows: { offsets, joint, weight } };
    }),
  };
}
