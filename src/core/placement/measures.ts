import { type Brief, inUnit } from '../audit/brief';
import type { Character } from '../character/model';
import { meshNodesOf } from '../character/hierarchy';
import { sceneOf } from './scene';
import {
  FACING_DEGREES,
  SYMMETRIC,
  bodyHeight,
  boxOfNode,
  facingOf,
  footprintOf,
  groundGap,
  heightOf,
  limbsOf,
  longSideOf,
  middleOf,
  overlapOf,
  segmentsOf,
  skeletonHeight,
} from './survey';

export type MeasureGroup = 'Size' | 'Place' | 'Stance' | 'Fit' | 'Props and parts' | 'Proportions';

/** One number of a character beside what the brief wants of it. Lengths are in the brief's unit. */
export interface Measure {
  readonly id: string;
  readonly group: MeasureGroup;
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

/** The pattern's prop that a node is, by its name, its mesh's name or what it hangs on. */
export function knownProp(character: Character, node: number, brief: Brief): Brief['props'][number] | null {
  const names = [character.nodes[node].name, character.meshes[character.nodes[node].mesh]?.name ?? ''];
  return (
    brief.props.find((p) => {
      const r = new RegExp(p.pattern, 'i');
      return names.some((n) => r.test(n));
    }) ?? null
  );
}

/** Every measure of placement at once, each against its target. */
export function measuresOf(character: Character, brief: Brief): Measure[] {
  const out: Measure[] = [];
  const unit = brief.unit;
  const long = (m: number) => inUnit(m, unit);
  const add = (
    group: MeasureGroup,
    id: string,
    label: string,
    value: number | string,
    target: number | string | null,
    tolerance: number | null,
    ok: boolean | null,
    more: Partial<Measure> = {},
  ) =>
    out.push({
      id,
      group,
      label,
      value,
      target,
      tolerance,
      unit,
      node: -1,
      state: ok === null ? 'told' : ok ? 'met' : 'off',
      ...more,
    });

  const body = bodyHeight(character);
  const skeleton = skeletonHeight(character);
  if (body !== null)
    add(
      'Size',
      'body-height',
      'Height of the body',
      long(body),
      brief.height ? long(brief.height.target) : null,
      brief.height ? long(brief.height.tolerance) : null,
      brief.height ? Math.abs(body - brief.height.target) <= brief.height.tolerance : null,
    );
  if (skeleton !== null) {
    const band =
      brief.skeletonShare && body
        ? [brief.skeletonShare.least * body, brief.skeletonShare.most * body]
        : null;
    add(
      'Size',
      'skeleton-height',
      'Height of the skeleton',
      long(skeleton),
      band ? `${long(band[0]).toFixed(2)} – ${long(band[1]).toFixed(2)}` : null,
      null,
      band ? skeleton >= band[0] && skeleton <= band[1] : null,
    );
  }
  const gap = groundGap(character);
  if (gap !== null)
    add(
      'Place',
      'ground',
      'Lowest point over the ground',
      long(gap),
      brief.groundTolerance === null ? null : 0,
      brief.groundTolerance === null ? null : long(brief.groundTolerance),
      brief.groundTolerance === null ? null : Math.abs(gap) <= brief.groundTolerance,
    );
  const middle = middleOf(character);
  const tolerance = brief.middleTolerance;
  if (middle && middle.share >= SYMMETRIC)
    add(
      'Place',
      'middle',
      'Plane of symmetry from the middle',
      long(middle.offset),
      tolerance === null ? null : 0,
      tolerance === null ? null : long(tolerance),
      tolerance === null ? null : Math.abs(middle.offset) <= tolerance,
      { hint: `${(middle.share * 100).toFixed(0)} % of the points have a twin` },
    );
  else if (middle)
    add('Place', 'middle', 'Plane of symmetry', 'none', null, null, null, {
      unit: '',
      hint: `only ${(middle.share * 100).toFixed(0)} % of the points have a twin`,
    });
  const foot = footprintOf(character);
  if (foot) {
    const away = Math.hypot(...foot.outside);
    add(
      'Place',
      'pivot',
      'Origin from the ground it stands on',
      long(away),
      tolerance === null ? null : 0,
      tolerance === null ? null : long(tolerance),
      tolerance === null ? null : away <= tolerance,
    );
  }
  const facing = facingOf(character);
  if (facing) {
    add(
      'Place',
      'facing',
      'Faces',
      facing.forward,
      brief.forward,
      null,
      facing.forward === brief.forward && facing.forwardOff(brief.forward) <= FACING_DEGREES,
      {
        unit: '',
        hint:
          facing.forwardOff(facing.forward) > 1
            ? `${facing.forwardOff(facing.forward).toFixed(0)}° off that axis`
            : undefined,
      },
    );
    add('Place', 'up', 'Upright along', facing.up, 'y', null, facing.up === 'y' && facing.stands, {
      unit: '',
      hint: facing.upOff > 1 && facing.up === 'y' ? `${facing.upOff.toFixed(0)}° off it` : undefined,
    });
  }
  for (const l of limbsOf(character)) {
    const s = brief.stance;
    if (l.limb === 'arm')
      add(
        'Stance',
        `arm-${l.side}`,
        `Arm below the horizontal, ${l.side}`,
        l.angle,
        s ? s.arms : null,
        s ? s.tolerance : null,
        s ? Math.abs(l.angle - s.arms) <= s.tolerance : null,
        { unit: '°', node: l.nodes[0] },
      );
    else
      add(
        'Stance',
        `leg-${l.side}`,
        `Leg off the vertical, ${l.side}`,
        l.angle,
        s ? 0 : null,
        s ? s.legs : null,
        s ? l.angle <= s.legs : null,
        { unit: '°', node: l.nodes[0] },
      );
    add(
      'Stance',
      `bend-${l.limb}-${l.side}`,
      `${l.limb === 'arm' ? 'Elbow' : 'Knee'} bent, ${l.side}`,
      l.bend,
      s ? 0 : null,
      s ? s.bend : null,
      s ? l.bend <= s.bend : null,
      { unit: '°', node: l.nodes[1] },
    );
  }
  const overlap = overlapOf(character);
  if (overlap) {
    const share = (overlap.inside / overlap.joints) * 100;
    const o = brief.overlap;
    add(
      'Fit',
      'overlap',
      'Joints inside the body',
      share,
      o ? `≥ ${o.share * 100}` : null,
      null,
      o ? share >= o.share * 100 : null,
      { unit: '%', hint: `${overlap.inside} of ${overlap.joints}` },
    );
    add('Fit', 'outside-mean', 'Outside it, on average', long(overlap.mean), null, null, null);
    add(
      'Fit',
      'outside-worst',
      'Outside it, at most',
      long(overlap.worst),
      o ? `≤ ${long(o.outside)}` : null,
      null,
      o ? overlap.worst <= o.outside : null,
      {
        node: overlap.worstNode,
        hint: overlap.worstNode >= 0 ? character.nodes[overlap.worstNode].name : undefined,
      },
    );
  }
  const scene = sceneOf(character);
  for (const i of meshNodesOf(character)) {
    const known = character.nodes[i].skin < 0 ? knownProp(character, i, brief) : null;
    const h = known ? longSideOf(character, i) : heightOf(boxOfNode(character, i));
    if (h === null) continue;
    add(
      'Props and parts',
      `mesh-${i}`,
      character.nodes[i].name || `mesh ${i}`,
      long(h),
      known ? long(known.height) : null,
      known ? long(known.tolerance) : null,
      known ? Math.abs(h - known.height) <= known.tolerance : null,
      { node: i, hint: known ? `${known.title}, its longest side` : `${scene.of[i]}, its height` },
    );
  }
  for (const s of segmentsOf(character))
    add('Proportions', `segment-${s.label}`, s.label, s.share * 100, s.table * 100, null, null, {
      unit: '% of height',
    });
  return out;
}
