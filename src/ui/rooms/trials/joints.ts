import type { MotionFigures } from '@/core/rooms/trials/rows';

/** A joint with its motions, the worst of them first. */
export interface TriedJoint {
  readonly node: number;
  readonly name: string;
  readonly motions: readonly MotionFigures[];
}

/** The joints of some motions, both with what is worst first. */
export function triedJoints(
  rows: readonly MotionFigures[],
  badness: (row: MotionFigures) => number,
): TriedJoint[] {
  const byNode = new Map<number, MotionFigures[]>();
  for (const row of rows) byNode.set(row.node, [...(byNode.get(row.node) ?? []), row]);
  return [...byNode]
    .map(([node, motions]): TriedJoint => {
      const sorted = [...motions].sort((a, b) => badness(b) - badness(a));
      return { node, name: sorted[0].bone, motions: sorted };
    })
    .sort((a, b) => badness(b.motions[0]) - badness(a.motions[0]));
}
