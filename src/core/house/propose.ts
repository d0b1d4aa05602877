/** Which brief fits what a file is. */
import { landmarksOf } from '../anatomy/landmarks';
import { handednessOf } from '../anatomy/match';
import { skeletonOf } from '../anatomy/skeleton';
import { TREES } from '../anatomy/trees';
import { bonesOf, meshNodesOf } from '../character/hierarchy';
import { bodyNodes } from '../character/measure';
import type { Character } from '../character/model';
import { countGravity } from '../contracts/finding';
import { audit } from './audit';
import type { Brief } from './brief';
import { CHECKS } from './registry';

/** What a file may be. */
export type FileKind = 'figure' | 'hand' | 'machine' | 'thing';

/** What a file is, and by what. */
export interface Seen {
  readonly kind: FileKind;
  /** To be read after “because”. */
  readonly because: string;
}

/** A brief that fits, and why. */
export interface Proposal {
  readonly brief: string;
  readonly seen: Seen;
  /** In a sentence. */
  readonly reason: string;
}

/** Landmarks from which on a skeleton is that of a figure. */
const FIGURE = 6;

/** Which kind of thing a character is. */
export function kindOf(character: Character): Seen {
  const bones = bonesOf(character);
  if (bones.length === 0)
    return { kind: 'thing', because: `it has no bones, and ${meshNodesOf(character).length} meshes` };
  const names = new Set(bones.map((bone) => character.nodes[bone].name));
  const hand = Object.keys(TREES.get('webxr-hand')?.parents ?? {});
  const isWebXr = hand.filter((name) => names.has(name)).length > hand.length / 2;
  if (isWebXr || handednessOf(skeletonOf(character)) !== 0)
    return { kind: 'hand', because: 'its bones are those of one hand' };
  const { size } = landmarksOf(character);
  if (size >= FIGURE) return { kind: 'figure', because: `${size} joints of a body were found` };
  const body = bodyNodes(character);
  const rigid = body.filter((node) => character.nodes[node].skin < 0).length;
  if (rigid > body.length / 2 || carriesWhole(character))
    return { kind: 'machine', because: `its parts hang rigid on ${bones.length} bones` };
  return { kind: 'figure', because: `its meshes are bound to ${bones.length} bones` };
}

/** Whether every point of what is bound hangs on one bone alone. */
function carriesWhole({ meshes, nodes }: Character): boolean {
  const bound = nodes.flatMap((node) => (node.skin >= 0 && node.mesh >= 0 ? [meshes[node.mesh]] : []));
  return bound.every((mesh) => !mesh.influences || mesh.influences.joint.length <= mesh.vertexCount);
}

/** Which kind of thing a brief is for. */
export function kindWanted(brief: Brief): FileKind | null {
  if (brief.tree === 'webxr-hand') return 'hand';
  if (brief.stance || brief.skeletonShare) return 'figure';
  return brief.limits.influences === 1 ? 'machine' : null;
}

/** What fits better than a brief that a character was given: nothing where that one is for its kind, or for any. */
export function betterBrief(character: Character, given: Brief, briefs: readonly Brief[]): Proposal | null {
  const wanted = kindWanted(given);
  if (wanted === null || wanted === kindOf(character).kind) return null;
  return proposeBrief(character, briefs);
}

/**
 * The brief for what a character is: of those for its kind the one under which the least stops hand-off, the first of
 * several. Null where none is for its kind.
 */
export function proposeBrief(character: Character, briefs: readonly Brief[]): Proposal | null {
  const seen = kindOf(character);
  const known: KnownStops = new Map();
  let best: { brief: Brief; stops: number } | null = null;
  for (const brief of briefs) {
    if (kindWanted(brief) !== seen.kind) continue;
    const stops = stopsUnder(character, brief, known);
    if (!best || stops < best.stops) best = { brief, stops };
  }
  if (!best) return null;
  const { id, title } = best.brief;
  return { brief: id, seen, reason: `“${title}” is for such a ${seen.kind}: ${seen.because}.` };
}

/** How much stops hand-off, by check and by what a brief asks of it. */
type KnownStops = Map<string, number>;

/** How much stops hand-off under a brief. Briefs ask much that others ask too: that is found once. */
function stopsUnder(character: Character, brief: Brief, known: KnownStops): number {
  let stops = 0;
  for (const check of CHECKS.filter(({ isInMotion }) => !isInMotion)) {
    // What its machine makes of the file says nothing about which brief is for such a thing.
    if (check.room === 'docket') continue;
    const asked = Object.keys(check.settings.fields).map((key) => (brief as Record<string, unknown>)[key]);
    const key = JSON.stringify([check.id, brief.checks?.[check.id] ?? null, asked]);
    const found = known.get(key) ?? countGravity(audit(character, brief, { checks: [check] })).stops;
    known.set(key, found);
    stops += found;
  }
  return stops;
}
