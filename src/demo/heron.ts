/**
 * The Pilot Heron of the night ferry: a wading bird in a pilot's coat; and as a supplier delivered it, body and wings as
 * two skeletons.
 */
import type { Channel, Character, Clip, Mesh, SceneNode, Skin } from '../core/character/model';
import { node, positionsOf } from '../core/character/model';
import { restPlace, restWorld } from '../core/character/hierarchy';
import { rehung } from '../core/character/rehang';
import { withTurnedAxes } from '../core/character/turn-axes';
import type { Skeleton, SkeletonBone } from '../core/anatomy/skeleton';
import { quayOther } from '../core/anatomy/skeletons/quay';
import { WINGED } from '../core/anatomy/skeletons/winged';
import {
  type Quat,
  decompose,
  inverseOr,
  quatAbout,
  quatBetween,
  quatConjugate,
  quatMultiply,
  quatRotate,
} from '../core/geometry/matrix';
import { characterOf, meshOf, plainMaterials, skeletonNodes, skinOf } from './assemble';
import { type Cage, joinCharacters, mirror } from './cage';
import { changedRows } from './delivered';
import { badge, birdEyes, buttons, coatCage, pilotsCap, skirtJoints, sleevesCage } from './pilots-coat';
import { crest, legCage, lowerBeak, tailFan, trunkHalf, wingCage } from './plumage';

const COLOURS: Readonly<Record<string, number[]>> = {
  knit: [0.5, 0.57, 0.63, 1],
  canvas: [0.86, 0.85, 0.8, 1],
  skin: [0.7, 0.58, 0.28, 1],
  horn: [0.84, 0.58, 0.2, 1],
  rubber: [0.13, 0.15, 0.19, 1],
  oilskin: [0.14, 0.2, 0.34, 1],
};

/** The winged skeleton with the bones that the skirt of the coat brings along. */
export function heronSkeleton(): Skeleton {
  const bones: SkeletonBone[] = [...WINGED.bones];
  const joints = skirtJoints();
  for (const flip of [1, -1])
    joints.forEach(([name, parent, place], i) => {
      const side = (word: string) => (flip > 0 ? word : quayOther(word));
      const next = joints[i + 1]?.[1] === name ? joints[i + 1][2] : null;
      const toward = next ?? [place[0], place[1] - 0.08, place[2]];
      const along = [(toward[0] - place[0]) * flip, toward[1] - place[1], toward[2] - place[2]] as const;
      bones.push({
        name: side(name),
        parent: bones.findIndex((bone) => bone.name === side(parent)),
        place: [place[0] * flip, place[1], place[2]],
        rotation: quatBetween([1, 0, 0], [...along]),
        weight: 0,
        holds: false,
        node: -1,
      });
    });
  return { id: 'heron', title: 'Pilot Heron', bones };
}

const isOfWings = (name: string) => /^(collar|wing|feather)/.test(name);

const both = (cage: Cage): Cage => mirror(cage, quayOther);

/** The Heron as it should be. `steps`: how often its cages are subdivided. */
export function cleanHeron(steps: number): Character {
  const skeleton = heronSkeleton();
  const nodes = skeletonNodes(skeleton);
  const names = skeleton.bones.map(({ name }) => name);
  const wingNames = names.filter(isOfWings);
  const bodyNames = names.filter((name) => !isOfWings(name));
  const plan = (name: string, cage: Cage, floor?: number) => ({ name, cage, steps, floor });
  const body = [
    plan('trunk', both(trunkHalf())),
    plan('legs', both(legCage()), 0),
    plan('beak', joinCharacters([lowerBeak(), crest(), tailFan()])),
    { name: 'eyes', cage: birdEyes(), steps: 1 },
    plan('cap', pilotsCap()),
    { name: 'badge', cage: badge(), steps: 1 },
  ];
  const wings = [plan('wings', both(wingCage())), plan('sleeves', sleevesCage())];
  const coat = [plan('coat', coatCage()), { name: 'buttons', cage: buttons(), steps: 1 }];
  const meshes = [
    meshOf('heron', body, bodyNames, 4),
    meshOf('wings', wings, wingNames, 4),
    meshOf('pilot coat', coat, bodyNames, 4),
  ];
  const skins = [
    skinOf('body', nodes, bodyNames),
    skinOf('wings', nodes, wingNames),
    skinOf('coat', nodes, bodyNames),
  ];
  nodes.push(
    node({ name: 'heron body', kind: 'mesh', mesh: 0, skin: 0 }),
    node({ name: 'heron wings', kind: 'mesh', mesh: 1, skin: 1 }),
    node({ name: 'pilot coat', kind: 'mesh', mesh: 2, skin: 2 }),
  );
  const character = characterOf('Pilot Heron', [...nodes], meshes, skins);
  return {
    ...character,
    carried: {
      ...character.carried,
      materials: plainMaterials(character.carried.materials, COLOURS),
      textures: [],
      samplers: [],
    },
    clips: [welcome(character)],
  };
}

const SECONDS = 2;

/** “Welcome aboard”: the head nods, the wings open and close; two seconds, looping. */
function welcome(character: Character): Clip {
  const times = Float32Array.from({ length: 17 }, (_, i) => (i * SECONDS) / 16);
  const world = restWorld(character.nodes);
  const turn = (
    name: string,
    axis: readonly [number, number, number],
    degrees: (time: number) => number,
  ): Channel => {
    const at = character.nodes.findIndex((candidate) => candidate.name === name);
    const { rotation, parent } = character.nodes[at];
    const local = quatRotate(quatConjugate(decompose(world, parent * 16).rotation), axis);
    const values = Float32Array.from(
      [...times].flatMap((time) => quatMultiply(quatAbout(local, (degrees(time) * Math.PI) / 180), rotation)),
    );
    return { node: at, path: 'rotation', interpolation: 'LINEAR', times, values };
  };
  const wave = (time: number) => (1 - Math.cos((time / SECONDS) * 2 * Math.PI)) / 2;
  return {
    name: 'welcome aboard',
    channels: [
      turn('neck_2', [1, 0, 0], (time) => 14 * wave(time)),
      turn('head', [1, 0, 0], (time) => -10 * wave(time)),
      turn('jaw', [1, 0, 0], (time) => 9 * wave(2 * time)),
      turn('wing_upper_lt', [0, 0, 1], (time) => -34 * wave(time)),
      turn('wing_upper_rt', [0, 0, 1], (time) => 34 * wave(time)),
      turn('wing_lower_lt', [0, 1, 0], (time) => 30 * wave(time)),
      turn('wing_lower_rt', [0, 1, 0], (time) => -30 * wave(time)),
      turn('tail', [0, 1, 0], (time) => 8 * Math.sin((time / SECONDS) * 2 * Math.PI)),
    ],
  };
}

/** What the bone of a half-mirrored wing is called: the name that it was copied from, with a copy's suffix. */
const copied = (name: string) => (/^(wing|feather).*_rt$/.test(name) ? `${quayOther(name)}_copy` : name);

/** Beyond this the tip of the wing's arm is pulled by its end, metres from the middle. */
const BOUND_FROM = 0.64;

/**
 * The Heron as it came, with the faults of faults.ts. Its wings are a skeleton of their own, and the right one was mirrored
 * by half: it hangs on the left collar, has copied names, its axes are half a turn off, so that its lengths run backwards,
 * and its end is bound.
 */
export function deliveredHeron(steps: number): Character {
  const clean = cleanHeron(steps);
  const at = (name: string) => clean.nodes.findIndex((candidate) => candidate.name === name);
  const seat = restPlace(clean.nodes, at('spine_2'));
  const root = clean.nodes.length;
  let character: Character = {
    ...clean,
    nodes: [...clean.nodes, node({ name: 'Wings', kind: 'bone', translation: [...seat] })],
  };
  for (const side of ['lt', 'rt']) character = rehung(character, at(`collar_${side}`), root);
  character = rehung(character, at('wing_upper_rt'), at('collar_lt'));
  const halfTurns = clean.nodes.flatMap(({ name }, i) =>
    copied(name) === name ? [] : [[i, [0, 0, 1, 0] as Quat] as const],
  );
  character = withTurnedAxes(character, new Map(halfTurns));
  const nodes = character.nodes.map((candidate) => ({ ...candidate, name: copied(candidate.name) }));
  const meshes = [...character.meshes];
  const wings = character.skins[1];
  meshes[1] = withEndBound(
    meshes[1],
    wings.joints.indexOf(at('wing_hand_rt')),
    wings.joints.indexOf(at('wing_end_rt')),
  );
  // What no skin lists is no bone in a file.
  const skins = character.skins.map((skin) => (skin === wings ? withRoot(skin, nodes, root) : skin));
  const roots = nodes.flatMap(({ parent }, i) => (parent < 0 ? [i] : []));
  return {
    ...character,
    nodes,
    meshes,
    skins,
    carried: { ...character.carried, scenes: [{ json: { name: character.name }, roots }] },
  };
}

/** A skin that lists one more joint, its root, and binds it as it stands. */
function withRoot(skin: Skin, nodes: readonly SceneNode[], joint: number): Skin {
  return {
    ...skin,
    joints: [...skin.joints, joint],
    skeleton: joint,
    inverseBinds: Float32Array.of(...skin.inverseBinds, ...inverseOr(restWorld(nodes), joint * 16)),
  };
}

/** A mesh whose points at the tip of the right wing are pulled half by the hand and half by its end. */
function withEndBound(mesh: Mesh, hand: number, end: number): Mesh {
  const positions = positionsOf(mesh);
  return changedRows(mesh, (row, vertex) =>
    positions[vertex * 3] > -BOUND_FROM
      ? row
      : row.flatMap(([joint, weight]): [number, number][] =>
          joint === hand
            ? [
                [hand, weight / 2],
                [end, weight / 2],
              ]
            : [[joint, weight]],
        ),
  );
}
