/**
 * Trials: how long all joints of a figure take, how that grows, and whether faults that are planted at joints are found there and
 * nowhere else, while the bodies as they were made get none.
 */
import { isBodyBone, meaningOf } from '../core/anatomy/bones';
import { boneDirections } from '../core/anatomy/joint-motions';
import { parentBone } from '../core/character/hierarchy';
import type { Character } from '../core/character/model';
import type { Finding } from '../core/contracts/finding';
import { audit, checksInMotion } from '../core/house/audit';
import { briefById } from '../core/house/briefs';
import { remedyById } from '../core/house/registry';
import { type JointTrial, STEPS, bendsFlesh, figuresAt, trialOf } from '../core/rooms/trials/sweep';
import { jointMotionsOf } from '../core/anatomy/joint-motions';
import type { MeshPart } from '../core/anatomy/parts';
import { stiffParts } from '../core/rooms/trials/rigid';
import { refineTo } from './refine';
import type { BenchRow } from './row';

const brief = briefById('plain-desk')!;

const findingsOf = (character: Character): Finding[] =>
  audit(character, brief, { checks: checksInMotion(brief) });

/** Weights of one bone, and of the twist bones on it, given to another, on all meshes. */
function given(character: Character, from: readonly number[], to: number): Character {
  const skinOf = new Map(
    character.nodes.flatMap(({ mesh, skin }) => (mesh >= 0 && skin >= 0 ? [[mesh, skin]] : [])),
  );
  const meshes = character.meshes.map((mesh, i) => {
    const skin = character.skins[skinOf.get(i) ?? -1];
    if (!skin || !mesh.influences || !skin.joints.includes(to)) return mesh;
    const slots = new Set(from.map((bone) => skin.joints.indexOf(bone)));
    const joint = mesh.influences.joint.map((slot) => (slots.has(slot) ? skin.joints.indexOf(to) : slot));
    return { ...mesh, influences: { ...mesh.influences, joint } };
  });
  return { ...character, meshes };
}

/** A fault, where it is looked for, and what of the body may tell of it: the limb that it is on. */
interface Planted {
  readonly kind: string;
  readonly bone: number;
  readonly character: Character;
  readonly limb: ReadonlySet<number>;
  /** The check that must tell of it; any where it does not say. */
  readonly check?: string;
}

/** Bones with the two joints above them and all that hangs on those nearest. */
function limbOf({ nodes }: Character, bones: readonly number[]): ReadonlySet<number> {
  const above = bones.map((bone) => parentBone(nodes, bone));
  const tops = new Set([...bones, ...above]);
  const near = new Set([...tops, ...above.map((bone) => parentBone(nodes, bone))]);
  nodes.forEach((_, node) => {
    for (let over = node; over >= 0; over = nodes[over].parent) if (tops.has(over)) near.add(node);
  });
  return near;
}

const HINGES = new Set(['lowerarm', 'lowerleg']);
const FINGERS = ['thumb', 'index', 'long', 'ring', 'little'];

/** How wide a band that makes an elbow or a knee collapse is, in metres by metre of the bone above. */
const TOO_WIDE = 1.1;

function plantedOn(character: Character): Planted[] {
  const bones = [...boneDirections(character).keys()].filter((bone) =>
    isBodyBone(meaningOf(character, bone)),
  );
  const twists = (bone: number) =>
    character.nodes.flatMap(({ parent }, node) =>
      parent === bone && meaningOf(character, node).kind === 'twist' ? [node] : [],
    );
  const out: Planted[] = [];
  for (const bone of bones) {
    const { part, side } = meaningOf(character, bone);
    const above = parentBone(character.nodes, bone);
    if (above < 0 || side === 'middle') continue;
    if (HINGES.has(part)) {
      const missed = given(character, [bone, ...twists(bone)], above);
      out.push({ kind: 'a joint that was missed', bone, character: missed, limb: limbOf(character, [bone]) });
      const width = TOO_WIDE * lengthOf(character, above, bone);
      const soft = remedyById('set-band')!.apply(character, { bone, width }, brief);
      out.push({ kind: 'a joint that collapses', bone, character: soft, limb: limbOf(character, [bone]) });
      const [other] = bones.filter((one) => {
        const meaning = meaningOf(character, one);
        return meaning.part === part && meaning.side !== side && meaning.side !== 'middle';
      });
      if (other !== undefined) {
        const crossed = crossedAt(character, bone, other);
        out.push({
          kind: 'points that go with the other side',
          bone,
          character: crossed,
          limb: limbOf(character, [bone, other]),
        });
      }
    }
    if (part === 'upperarm') {
      const next = bones.find((one) => parentBone(character.nodes, one) === bone);
      const width = TOO_WIDE * lengthOf(character, bone, next ?? bone);
      const soft = remedyById('set-band')!.apply(character, { bone, width }, brief);
      out.push({
        kind: 'a shoulder that collapses',
        bone,
        character: soft,
        limb: limbOf(character, [bone]),
      });
    }
    const finger = FINGERS.indexOf(part);
    const isKnuckle = finger > 0 && meaningOf(character, above).part === part;
    const neighbour = isKnuckle
      ? bones.find((one) => {
          const meaning = meaningOf(character, one);
          const isNext = meaning.part === FINGERS[finger === 4 ? 3 : finger + 1] && meaning.side === side;
          return isNext && meaningOf(character, parentBone(character.nodes, one)).part === meaning.part;
        })
      : undefined;
    if (neighbour !== undefined)
      out.push({
        kind: 'a finger that its neighbour pulls',
        bone,
        character: given(character, [bone], neighbour),
        limb: limbOf(character, [bone, neighbour]),
      });
  }
  for (const part of stiffParts(character).slice(0, MOST_PARTS)) {
    const driver = part.drivers[0].node;
    out.push({
      kind: 'a rigid part that two bones pull',
      check: 'rigid-bends',
      bone: driver,
      character: bentAt(character, part, parentBone(character.nodes, driver)),
      limb: limbOf(character, [driver]),
    });
  }
  return out;
}

/** Rigid parts that are bent, at most. */
const MOST_PARTS = 4;

/** Every other point of a part given to another bone. */
function bentAt(character: Character, { node, polygons }: MeshPart, other: number): Character {
  const { mesh, skin } = character.nodes[node];
  const { polygonOffsets, corners, influences } = character.meshes[mesh];
  const slot = character.skins[skin]?.joints.indexOf(other) ?? -1;
  if (!influences || slot < 0) return character;
  const own = new Set(
    [...polygons].flatMap((polygon) => [
      ...corners.subarray(polygonOffsets[polygon], polygonOffsets[polygon + 1]),
    ]),
  );
  const joint = influences.joint.slice();
  for (const vertex of own)
    if (vertex % 2 === 0)
      for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++) joint[k] = slot;
  const changed = { ...character.meshes[mesh], influences: { ...influences, joint } };
  return { ...character, meshes: character.meshes.map((one, i) => (i === mesh ? changed : one)) };
}

function lengthOf({ nodes }: Character, above: number, bone: number): number {
  let long = 0;
  for (let node = bone; node !== above && node >= 0; node = nodes[node].parent)
    long += Math.hypot(...nodes[node].translation);
  return long;
}

/** A dozen points of a bone given to its twin. */
function crossedAt(character: Character, bone: number, other: number): Character {
  const meshes = character.meshes.map((mesh, i) => {
    const node = character.nodes.find((one) => one.mesh === i && one.skin >= 0);
    const skin = node && character.skins[node.skin];
    if (!skin || !mesh.influences) return mesh;
    const [from, to] = [bone, other].map((one) => skin.joints.indexOf(one));
    const { offsets, joint, weight } = mesh.influences;
    const changed = joint.slice();
    let left = 12;
    for (let vertex = 0; vertex + 1 < offsets.length && left > 0 && from >= 0 && to >= 0; vertex++)
      for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++)
        if (joint[k] === from && weight[k] > 0.5) {
          changed[k] = to;
          left--;
        }
    return { ...mesh, influences: { ...mesh.influences, joint: changed } };
  });
  return { ...character, meshes };
}

/** The rows of planted faults: found at their limb, and nothing told elsewhere. */
function faultRows(bodies: readonly Character[]): BenchRow[] {
  const cleanFindings = bodies.map((body) => new Set(findingsOf(body).map(({ key }) => key)));
  const kinds = new Map<string, { found: number; apart: number; count: number }>();
  bodies.forEach((body, i) => {
    for (const { kind, character, limb, check } of plantedOn(body)) {
      const fresh = findingsOf(character).filter(({ key }) => !cleanFindings[i].has(key));
      const tally = kinds.get(kind) ?? { found: 0, apart: 0, count: 0 };
      kinds.set(kind, tally);
      tally.count++;
      const isFound = (finding: Finding) =>
        check ? finding.check === check : limb.has(finding.subject.index);
      if (fresh.some(isFound)) tally.found++;
      if (fresh.some(({ subject }) => subject.kind !== 'mesh' && !limb.has(subject.index))) tally.apart++;
    }
  });
  const rows = [...kinds].map(([kind, { found, apart, count }]): BenchRow => ({
    work: `trials: ${kind}, found at its limb; told elsewhere`,
    measured: `${found} of ${count}; ${apart} of ${count}`,
    budget: 'all; none',
    holds: found === count && apart === 0,
  }));
  const told = cleanFindings.reduce((sum, one) => sum + one.size, 0);
  rows.push({
    work: `trials: told of ${bodies.length} bodies as they were made`,
    measured: `${told}`,
    budget: '0',
    holds: told === 0,
  });
  return rows;
}

function clocked(work: () => void): number {
  const start = performance.now();
  work();
  return performance.now() - start;
}

/** So many bones are swept, those of the body first. */
const SWEPT = 60;

/** All motions of the first so many bones, with their figures. */
function sweptBones(character: Character, most: number): JointTrial[] {
  const motions = jointMotionsOf(character).filter((motion) => bendsFlesh(character, motion));
  const bones = [...new Set(motions.map(({ bone }) => bone))].slice(0, most);
  return motions.filter(({ bone }) => bones.includes(bone)).map((motion) => trialOf(character, motion));
}

const MOST_SWEEP = 5000;
const MOST_POSE = 60;

/** Rows of trials. `clean` is a body without a fault, `fine` one of 100 000 vertices. */
export function trialRows(clean: Character, fine: Character, others: readonly Character[]): BenchRow[] {
  const sizes = [25_000, 100_000].map((count) => refineTo(clean, count));
  const count = (character: Character) => character.meshes.reduce((sum, mesh) => sum + mesh.vertexCount, 0);
  const times = sizes.map((character) => clocked(() => sweptBones(character, SWEPT)));
  const poses = sweptBones(sizes[1], SWEPT).length * STEPS;
  const [knee] = jointMotionsOf(fine).filter(({ motion }) => motion === 'swing forward');
  const pose = Math.min(...[0, 1, 2].map(() => clocked(() => figuresAt(fine, knee, knee.degrees))));
  const growth = times[1] / times[0];
  const points = count(sizes[1]) / count(sizes[0]);
  return [
    {
      work: `trials: ${SWEPT} bones in ${poses} poses, ${count(sizes[1])} vertices`,
      measured: `${Math.round(times[1])} ms`,
      budget: `≤ ${MOST_SWEEP} ms`,
      holds: times[1] <= MOST_SWEEP,
    },
    {
      work: 'trials: one pose of a hip, all figures',
      measured: `${pose.toFixed(1)} ms`,
      budget: `≤ ${MOST_POSE} ms`,
      holds: pose <= MOST_POSE,
    },
    {
      work: `trials: growth from ${count(sizes[0])} to ${count(sizes[1])} vertices`,
      measured: `${growth.toFixed(2)} ×`,
      budget: `≤ ${points.toFixed(2)} ×`,
      holds: growth <= points,
    },
    ...faultRows([clean, ...others]),
  ];
}
