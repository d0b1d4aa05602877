import type { Character, ElementSet } from '@/core/character/model';
import type { Finding } from '@/core/contracts/finding';
import type { Brief } from '@/core/house/brief';
import { EMPTY_VIEW, type Marks, type StageView } from '../stage/view';
import type { Comparison } from '../worker/compare';
import type { Figure, Ghost } from '../worker/figure';
import type { ComparedPicture } from './document';
import { marksOf } from './findings-places';
import type { DeskState } from './store';

/** The last answer is kept: the same things asked again give the very same object. */
function remembered<A extends readonly unknown[], R>(compute: (...args: A) => R): (...args: A) => R {
  let last: { readonly args: A; readonly result: R } | null = null;
  return (...args) => {
    if (last && last.args.every((arg, i) => Object.is(arg, args[i]))) return last.result;
    last = { args, result: compute(...args) };
    return last.result;
  };
}

/**
 * The side of the box that is held beside a figure: one of what the brief counts in, or a size that fits it.
 * Metres.
 */
export const knownSide = (unit: Brief['unit']): number =>
  ({ m: 1, cm: 0.5, mm: 0.1, in: 0.9144, ft: 0.9144 })[unit as string] ?? 1;

const FELT = 1e-6;

const differenceValues = remembered(
  ({ apart, most }: Comparison) =>
    new Map(apart.map((x) => [x.node, x.distance.map((distance) => (most > FELT ? distance / most : 0))])),
);

const ghostsOf = remembered((figure: Figure): Ghost[] =>
  figure.meshes.map((mesh) => ({ points: mesh.points, normals: mesh.normals, triangles: mesh.triangles })),
);

/** Two revisions beside each other take the stage, whatever room is open. */
function comparisonView(base: StageView, data: Comparison, show: ComparedPicture): StageView {
  const [first, second] = data.figures;
  const isDifference = show === 'difference';
  const other = show === 'second' || isDifference ? first : second;
  return {
    ...EMPTY_VIEW,
    edges: base.edges,
    sheer: base.sheer,
    twigs: base.twigs,
    through: base.through,
    twigSize: base.twigSize,
    twigSizes: base.twigSizes,
    subject: base.subject,
    figure: show === 'first' ? first : second,
    surface: isDifference ? 'difference' : 'clay',
    values: isDifference ? differenceValues(data) : null,
    ghosts: isDifference && data.most <= FELT ? null : ghostsOf(other),
  };
}

const marksOfChosen = remembered(
  (findings: readonly Finding[] | null, chosen: string | null, figure: Figure | null): Marks | null => {
    const finding = findings?.find((finding) => finding.key === chosen);
    return finding && figure ? marksOf(finding, figure) : null;
  },
);

const withPicked = remembered((marks: Marks | null, { vertices, polygons, edges }: Marks): Marks | null => {
  if (vertices.size + polygons.size + (edges?.size ?? 0) === 0) return marks;
  return { vertices, polygons, edges, bones: marks?.bones ?? new Set() };
});

const bonesOfChoice = remembered(
  (
    lastChosen: DeskState['lastChosen'],
    marks: Marks | null,
    picked: ReadonlySet<number>,
    bone: number,
  ): ReadonlySet<number> => {
    if (lastChosen === 'picked' && picked.size > 0) return picked;
    if (lastChosen === 'finding' && marks && marks.bones.size > 0) return marks.bones;
    return new Set(bone >= 0 ? [bone] : []);
  },
);

const shownSets = remembered(
  (character: Character | null, shown: ReadonlySet<string>): readonly ElementSet[] =>
    character?.sets.filter(({ name }) => shown.has(name)) ?? [],
);

/** Of a bone in several sets the last one that says how thick it is drawn holds. */
const sizesOfSets = remembered(
  (character: Character | null): ReadonlyMap<number, number> =>
    new Map(
      character?.sets.flatMap(({ bones, twigSize }) =>
        twigSize ? bones.map((bone) => [bone, twigSize] as const) : [],
      ),
    ),
);

/** The numbers that the surface shows. */
function valuesOf({ heat, surface, owners, weights }: DeskState): ReadonlyMap<number, Float32Array> | null {
  if (heat) return heat.values;
  return (surface === 'owners' ? owners : weights?.values) ?? null;
}

/** What the stage draws while the state is like this: the one place where state becomes picture. */
export function stageViewOf(state: DeskState): StageView {
  const marks = marksOfChosen(state.audited, state.chosen, state.figure);
  const view: StageView = {
    figure: state.figure,
    subject: state.record?.id ?? null,
    searches: state.searches,
    surface: state.heat ? 'difference' : state.surface,
    edges: state.edges,
    sheer: state.sheer,
    twigs: state.twigs,
    through: state.through,
    twigSize: state.twigSize,
    twigSizes: sizesOfSets(state.character),
    hidden: state.hidden,
    locked: state.locked,
    tints: state.tints,
    sets: shownSets(state.character, state.shownSets),
    isolated: state.isolated,
    partsLeft: state.partsLeft,
    marks: withPicked(marks, state.picked),
    chosenBones: bonesOfChoice(state.lastChosen, marks, state.picked.bones, state.bone),
    values: valuesOf(state),
    ghosts: state.ghosts,
    boxSide: state.boxOn ? knownSide(state.brief.unit) : null,
    margin: state.wide ? 1.1 : EMPTY_VIEW.margin,
  };
  const { compared } = state;
  return compared?.data ? comparisonView(view, compared.data, compared.show) : view;
}
