import type { Measure } from '../../contracts/measure';
import { inUnit } from '../../contracts/units';
import type { Character } from '../../character/model';
import { meshNodesOf } from '../../character/hierarchy';
import { sceneOf } from './scene';
import { knownProp } from '../../contracts/props';
import { type PlacementBrief, isTooStraight } from './settings';
import {
  SYMMETRIC,
  bodyHeight,
  boxOfNode,
  facingOf,
  footprintOf,
  groundGap,
  heightOf,
  limbStances,
  longSideOf,
  middleOf,
  overlapOf,
  segmentsOf,
  skeletonHeight,
} from './survey';

export type MeasureGroup = 'Size' | 'Place' | 'Stance' | 'Fit' | 'Props and parts' | 'Proportions';

export type PlacementMeasure = Measure<MeasureGroup>;

const stateOf = (ok: boolean | null): Measure['state'] => {
  if (ok === null) return 'told';
  return ok ? 'met' : 'off';
};

/**
 * What the brief says of a length: its target in the brief's unit, how far off it may be, whether it is met;
 * nothing where it asks nothing.
 */
function against(
  metres: number,
  target: number,
  tolerance: number | null | undefined,
  brief: PlacementBrief,
) {
  if (tolerance === null || tolerance === undefined) return { target: null, tolerance: null, met: null };
  return {
    target: inUnit(target, brief.unit),
    tolerance: inUnit(tolerance, brief.unit),
    met: Math.abs(metres - target) <= tolerance,
  };
}

type Row = Pick<PlacementMeasure, 'id' | 'label' | 'value' | 'unit'> &
  Partial<Omit<PlacementMeasure, 'state' | 'group'>> & { readonly met?: boolean | null };

const measure = (group: MeasureGroup, { met = null, ...row }: Row): PlacementMeasure => ({
  group,
  target: null,
  tolerance: null,
  node: -1,
  state: stateOf(met),
  ...row,
});

/** Every measure of placement at once, each against its target. */
export function measuresOf(character: Character, brief: PlacementBrief): PlacementMeasure[] {
  return [
    ...sizesOf(character, brief).map((row) => measure('Size', row)),
    ...placesOf(character, brief).map((row) => measure('Place', row)),
    ...directionsOf(character, brief).map((row) => measure('Place', row)),
    ...stanceOf(character, brief).map((row) => measure('Stance', row)),
    ...fitOf(character, brief).map((row) => measure('Fit', row)),
    ...partsOf(character, brief).map((row) => measure('Props and parts', row)),
    ...segmentsOf(character).map((segment) =>
      measure('Proportions', {
        id: `segment-${segment.label}`,
        label: segment.label,
        value: segment.share * 100,
        target: segment.table * 100,
        unit: '% of height',
      }),
    ),
  ];
}

function sizesOf(character: Character, brief: PlacementBrief): Row[] {
  const { unit } = brief;
  const body = bodyHeight(character);
  const skeleton = skeletonHeight(character);
  const out: Row[] = [];
  if (body !== null)
    out.push({
      id: 'body-height',
      label: 'Height of the body',
      value: inUnit(body, unit),
      unit,
      ...against(body, brief.height?.target ?? 0, brief.height?.tolerance, brief),
    });
  if (skeleton !== null) {
    const share = body ? brief.skeletonShare : null;
    const band = share && body ? [share.least * body, share.most * body] : null;
    out.push({
      id: 'skeleton-height',
      label: 'Height of the skeleton',
      value: inUnit(skeleton, unit),
      unit,
      target: band && band.map((metres) => inUnit(metres, unit).toFixed(2)).join(' – '),
      met: band && skeleton >= band[0] && skeleton <= band[1],
    });
  }
  return out;
}

function placesOf(character: Character, brief: PlacementBrief): Row[] {
  const { unit } = brief;
  const gap = groundGap(character);
  const middle = middleOf(character);
  const foot = footprintOf(character);
  const out: Row[] = [];
  if (gap !== null)
    out.push({
      id: 'ground',
      label: 'Lowest point over the ground',
      value: inUnit(gap, unit),
      unit,
      ...against(gap, 0, brief.groundTolerance, brief),
    });
  const twins = middle ? `${(middle.share * 100).toFixed(0)} % of the points have a twin` : '';
  if (middle && middle.share >= SYMMETRIC)
    out.push({
      id: 'middle',
      label: 'Plane of symmetry from the middle',
      value: inUnit(middle.offset, unit),
      unit,
      hint: twins,
      ...against(middle.offset, 0, brief.middleTolerance, brief),
    });
  else if (middle)
    out.push({ id: 'middle', label: 'Plane of symmetry', value: 'none', unit: '', hint: `only ${twins}` });
  if (foot) {
    const away = Math.hypot(...foot.outside);
    out.push({
      id: 'pivot',
      label: 'Origin from the ground it stands on',
      value: inUnit(away, unit),
      unit,
      ...against(away, 0, brief.middleTolerance, brief),
    });
  }
  return out;
}

function directionsOf(character: Character, brief: PlacementBrief): Row[] {
  const facing = facingOf(character);
  if (!facing) return [];
  const off = facing.forwardOff(facing.forward);
  return [
    {
      id: 'facing',
      label: 'Faces',
      value: facing.forward,
      target: brief.forward,
      unit: '',
      met: facing.forward === brief.forward && facing.forwardOff(brief.forward) <= facing.within,
      hint: off > 1 ? `${off.toFixed(0)}° off that axis` : undefined,
    },
    {
      id: 'up',
      label: 'Upright along',
      value: facing.up,
      target: 'y',
      unit: '',
      met: facing.up === 'y' && facing.stands,
      hint: facing.upOff > 1 && facing.up === 'y' ? `${facing.upOff.toFixed(0)}° off it` : undefined,
    },
  ];
}

function stanceOf(character: Character, brief: PlacementBrief): Row[] {
  const stance = brief.stance;
  return limbStances(character).flatMap((limb): Row[] => {
    const isArm = limb.limb === 'arm';
    const target = isArm ? stance?.arms : stance && 0;
    const tolerance = isArm ? stance?.tolerance : stance?.legs;
    return [
      {
        id: `${limb.limb}-${limb.side}`,
        label: `${isArm ? 'Arm below the horizontal' : 'Leg off the vertical'}, ${limb.side}`,
        value: limb.angle,
        unit: '°',
        node: limb.nodes[0],
        target: target ?? null,
        tolerance: tolerance ?? null,
        met: stance && Math.abs(limb.angle - (target ?? 0)) <= (tolerance ?? 0),
      },
      {
        id: `bend-${limb.limb}-${limb.side}`,
        label: `${isArm ? 'Elbow' : 'Knee'} bent, ${limb.side}`,
        value: limb.bend,
        unit: '°',
        node: limb.nodes[1],
        target: stance && 0,
        tolerance: stance && stance.bend,
        met: stance && limb.bend <= stance.bend && !isTooStraight(limb.bend, stance),
      },
    ];
  });
}

function fitOf(character: Character, brief: PlacementBrief): Row[] {
  const { unit, overlap: wanted } = brief;
  const overlap = overlapOf(character);
  if (!overlap) return [];
  const share = (overlap.inside / overlap.joints) * 100;
  return [
    {
      id: 'overlap',
      label: 'Joints inside the body',
      value: share,
      unit: '%',
      target: wanted && `≥ ${wanted.share * 100}`,
      met: wanted && share >= wanted.share * 100,
      hint: `${overlap.inside} of ${overlap.joints}`,
    },
    { id: 'outside-mean', label: 'Outside it, on average', value: inUnit(overlap.mean, unit), unit },
    {
      id: 'outside-worst',
      label: 'Outside it, at most',
      value: inUnit(overlap.worst, unit),
      unit,
      target: wanted && `≤ ${inUnit(wanted.outside, unit)}`,
      met: wanted && overlap.worst <= wanted.outside,
      node: overlap.worstNode,
      hint: overlap.worstNode >= 0 ? character.nodes[overlap.worstNode].name : undefined,
    },
  ];
}

function partsOf(character: Character, brief: PlacementBrief): Row[] {
  const { unit } = brief;
  const scene = sceneOf(character);
  return meshNodesOf(character).flatMap((i): Row[] => {
    const known = character.nodes[i].skin < 0 ? knownProp(character, i, brief) : null;
    const size = known ? longSideOf(character, i) : heightOf(boxOfNode(character, i));
    if (size === null) return [];
    return [
      {
        id: `mesh-${i}`,
        label: character.nodes[i].name || `mesh ${i}`,
        value: inUnit(size, unit),
        unit,
        node: i,
        hint: known ? `${known.title}, its longest side` : `${scene.of[i]}, its height`,
        ...against(size, known?.height ?? 0, known?.tolerance, brief),
      },
    ];
  });
}
