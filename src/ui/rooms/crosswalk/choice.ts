/** Which pairs are chosen, and pairs that are made by pointing at one bone on each figure. */
import { leadsToTarget, targetsOf } from '@/core/anatomy/crosswalk';
import type { Skeleton } from '@/core/anatomy/skeleton';
import { type NamedPlace, findNamed, namedIn } from '@/core/character/named';
import type { Figure } from '../../worker/figure';
import { chooseBone } from '../../state/choose';
import { desk } from '../../state/store';
import { changeRule } from './changes';
import { type HeldBone, pickedOf, useCrosswalkSession } from './session';

const set = useCrosswalkSession.setState;
const get = useCrosswalkSession.getState;

/** Chooses a pair by its source bone; the bone is chosen on the desk too. −1 for none. */
export function choosePair(source: number): void {
  pairOf(source);
  const node = get().source?.bones[source]?.node ?? -1;
  if (desk().bone !== node) chooseBone(node);
}

/** Chooses several pairs, of which one leads. */
export function choosePairs(sources: ReadonlySet<number>, lead: number): void {
  choosePair(lead);
  set({ picked: sources });
}

/** Chooses all pairs of a group by its head. */
export function chooseGroup(id: string, sources: readonly number[]): void {
  set({ chosen: -1, chosenTarget: -1, group: id, picked: new Set(sources) });
}

/** Follows the bone that was chosen on the stage. */
export function followBone(node: number): void {
  const { source, chosen } = get();
  const index = source?.bones.findIndex((bone) => bone.node === node) ?? -1;
  if (index >= 0 && index !== chosen) pairOf(index);
}

const pairOf = (source: number): void =>
  set({
    chosen: source,
    chosenTarget: get().crosswalk?.[source]?.target ?? -1,
    picked: pickedOf(source),
    group: null,
  });

/** Chooses the pair of a target bone. */
export function chooseByTarget(target: number): void {
  const rules = get().crosswalk?.filter((rule) => targetsOf(rule).includes(target)) ?? [];
  const rule = rules.find(leadsToTarget) ?? rules[0];
  choosePair(rule?.source ?? -1);
  set({ chosenTarget: target });
}

/** A bone of a figure by its name, and by its place among its namesakes. */
export function namedOn(figure: Figure | null, node: number): NamedPlace | null {
  const at = figure?.bones.findIndex((bone) => bone.node === node) ?? -1;
  return figure && at >= 0
    ? namedIn(
        figure.bones.map((bone) => bone.name),
        at,
      )
    : null;
}

/** The bone of a skeleton that a figure shows by this name; −1 for none. */
const byName = (skeleton: Skeleton | null, named: NamedPlace | null) =>
  skeleton && named
    ? findNamed(
        skeleton.bones.map((bone) => bone.name),
        named,
      )
    : -1;

/** Chooses the pair of a twig on the right stage, by its name. */
export function chooseOnTarget(named: NamedPlace | null): void {
  const { skeleton, source } = get();
  const target = byName(skeleton, named);
  if (target >= 0) chooseByTarget(target);
  else choosePair(byName(source, named));
}

/** A bone of the left figure was pointed at, by its node. */
export function pointAtSource(node: number): void {
  const bone = get().source?.bones.findIndex((bone) => bone.node === node) ?? -1;
  if (bone >= 0) pointAt({ side: 'source', bone });
}

/** A bone of the right figure was pointed at, by its name. */
export function pointAtTarget(named: NamedPlace | null): void {
  const bone = byName(get().skeleton, named);
  if (bone >= 0) pointAt({ side: 'target', bone });
}

/** The first bone is held; the second, on the other figure, makes the pair. */
function pointAt(bone: HeldBone): void {
  const { held } = get();
  if (!held || held.side === bone.side) {
    set({ held: bone });
    if (bone.side === 'source') choosePair(bone.bone);
    return;
  }
  const source = bone.side === 'source' ? bone.bone : held.bone;
  const target = bone.side === 'target' ? bone.bone : held.bone;
  set({ held: null });
  changeRule(source, 'carry', target);
  choosePair(source);
}
