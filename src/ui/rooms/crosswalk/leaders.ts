/** The threads from the bones of both figures to the rows of the table, for the limb that is chosen. */
import { posing } from '../../state/pointer';
import { Signal } from '../../state/signal';
import { desk } from '../../state/store';
import type { Drawing, DrawingSource, Leader } from '../../stage/overlay';
import type { Figure, FigureBone } from '../../worker/figure';
import { useCrosswalkSession } from './session';

/** A row of the table that is in sight. */
export interface RowInSight {
  /** Node of the source's bone. */
  readonly node: number;
  /** Name of what stands on the right figure; undefined for nothing. */
  readonly theirs: string | undefined;
  /** Its middle, pixels of the page from the top. */
  readonly y: number;
  readonly strong: boolean;
}

/** Rows of the chosen limb that are in sight. */
export const rowsInSight = new Signal<readonly RowInSight[]>([]);

const SIDE_COLOUR = { left: 'var(--left)', right: 'var(--right)', middle: 'var(--ink)' } as const;

const leader = (bone: FigureBone, row: RowInSight, edge: Leader['edge']): Leader => ({
  at: bone.from,
  edge,
  y: row.y,
  colour: row.strong ? 'var(--damson)' : SIDE_COLOUR[bone.side],
  strong: row.strong,
});

function drawOn(
  bones: readonly FigureBone[],
  edge: Leader['edge'],
  of: (bone: FigureBone) => unknown,
): Drawing {
  const rows = new Map(
    rowsInSight.value.map((sight) => [edge === 'right' ? sight.node : sight.theirs, sight]),
  );
  rows.delete(undefined);
  const leaders = bones.flatMap((bone) => {
    const row = rows.get(of(bone) as number | string);
    return row ? [leader(bone, row, edge)] : [];
  });
  return { leaders };
}

/** Over the figure as it is. */
export const leadersOnSource: DrawingSource = {
  draw: () => drawOn(posedBones(desk().figure, posedHere()), 'right', (bone) => bone.node),
  listen: (changed) => rowsInSight.listen(changed),
};

/** Over the figure as it will be, or over the target by itself. */
export const leadersOnTarget = (shown: () => Figure | null): DrawingSource => ({
  draw: () =>
    drawOn(
      posedBones(shown(), useCrosswalkSession.getState().both?.after.bones ?? null),
      'left',
      (bone) => bone.name,
    ),
  listen: (changed) => rowsInSight.listen(changed),
});

/** Where the bones of the figure on the desk are while it is posed. */
function posedHere(): readonly FigureBone[] | null {
  const now = posing.value;
  return now && now.figure === desk().figure ? (now.pose?.bones ?? null) : null;
}

const posedBones = (figure: Figure | null, posed: readonly FigureBone[] | null) =>
  posed ?? figure?.bones ?? [];
