/** The Deckhand of the night ferry, clean: the Quay skeleton, coat bones, cap and lantern. */
import { PLAIN_FIGURE } from '../core/house/plain-briefs';
import { withoutNodes } from '../core/character/remove';
import { settleOnBone } from '../core/rooms/docket/remedies/settle-on-bone';
import { PNG } from 'pngjs';
import type { Channel, Character, Clip } from '../core/character/model';
import { node } from '../core/character/model';
import { QUAY, quayOther } from '../core/anatomy/skeletons/quay';
import type { Skeleton, SkeletonBone } from '../core/anatomy/skeleton';
import { quatBetween, quatConjugate, decompose } from '../core/geometry/matrix';
import { restWorld } from '../core/character/hierarchy';
import { characterOf, meshOf, skeletonNodes, skinOf } from './assemble';
import { bodyCage, bodySolid } from './body';
import { mirror, subdivide } from './cage';
import {
  COAT_CHAINS,
  bootsCage,
  capCage,
  coatBone,
  coatCage,
  coatPlace,
  eyes,
  lanternCage,
  lanternPlace,
  toggles,
} from './clothes';
import { turningTrack } from './turning';

const along = (from: readonly number[], to: readonly number[]) =>
  quatBetween([1, 0, 0], [to[0] - from[0], to[1] - from[1], to[2] - from[2]]);

/** The Quay skeleton with the bones that the Deckhand's clothes bring along. */
export function deckhandSkeleton(): Skeleton {
  const bones: SkeletonBone[] = [...QUAY.bones];
  const add = (name: string, parent: string, place: readonly number[], rotation: readonly number[]) =>
    bones.push({
      name,
      parent: bones.findIndex((bone) => bone.name === parent),
      place: place as SkeletonBone['place'],
      rotation: rotation as SkeletonBone['rotation'],
      weight: 0,
      holds: false,
      node: -1,
    });
  for (const flip of [1, -1]) {
    COAT_CHAINS.forEach((_, chain) => {
      const side = (name: string) => (flip > 0 ? name : quayOther(name));
      const at = (rank: number) => {
        const p = coatPlace(chain, rank);
        return [p[0] * flip, p[1], p[2]];
      };
      for (let rank = 0; rank < 3; rank++)
        add(
          side(coatBone(chain, rank)),
          rank === 0 ? 'pelvis' : side(coatBone(chain, rank - 1)),
          at(rank),
          along(at(rank), at(rank + 1)),
        );
    });
  }
  add('cap', 'head', [0, 1.71, 0], along([0, 0, 0], [0, 1, 0]));
  add('lantern', 'hand_rt', lanternPlace(), along([0, 0, 0], [0, -1, 0]));
  return { id: 'deckhand', title: 'Deckhand', bones };
}

/** A fine oilcloth weave, 64 × 64. */
function weave(): Uint8Array {
  const width = 64;
  const png = new PNG({ width, height: width });
  for (let y = 0; y < width; y++) {
    for (let x = 0; x < width; x++) {
      const v = 232 + ((x + y) % 4 < 2 ? 6 : 0) + ((x * 7 + y * 13) % 5);
      png.data.set([v, v - 4, v - 14, 255], (y * width + x) * 4);
    }
  }
  return new Uint8Array(PNG.sync.write(png, { colorType: 2 }));
}

interface HowDrawn {
  /** Most bones at a point. */
  readonly limit?: number;
  /** How often its cages are subdivided, 1 or more. */
  readonly steps: number;
}

/** The clean Deckhand, its lantern right on the hand: held alike by every machine. */
export const cleanDeckhand = (how: HowDrawn): Character => {
  const drawn = drawDeckhand(how);
  const lantern = drawn.nodes.findIndex((node) => node.name === 'storm lantern');
  const settled = settleOnBone.apply(drawn, { node: lantern }, PLAIN_FIGURE);
  const ring = settled.nodes.findIndex((node) => node.name === 'lantern');
  return withoutNodes(settled, new Set([ring])).character;
};

/** The same with the lantern turned upright by its node. */
export function drawDeckhand({ limit = 4, steps }: HowDrawn): Character {
  const skeleton = deckhandSkeleton();
  const nodes = skeletonNodes(skeleton);
  const solid = bodySolid();
  const body = mirror(bodyCage(), quayOther);
  const onto = { solid, share: 0.94, offset: 0, farthest: 0.05 };
  const names = skeleton.bones.map((bone) => bone.name);
  const quay = QUAY.bones.map((bone) => bone.name);
  const coatJoints = names.filter(
    (name) => !/^(root|head|thumb|point|long|ring|small|foot|toe|leg_lower|cap|lantern|neck_2)/.test(name),
  );
  const bootJoints = names.filter((name) => /^(leg_lower|foot|toe)/.test(name));
  const bodyMesh = meshOf(
    'body',
    [
      { name: 'body', cage: body, steps, onto, floor: 0.004 },
      { name: 'eyes', cage: eyes(), steps },
    ],
    quay,
    limit,
  );
  const coatMesh = meshOf(
    'oilskin coat',
    [
      { name: 'coat', cage: coatCage(), steps },
      { name: 'toggles', cage: toggles(), steps: 1 },
    ],
    coatJoints,
    limit,
  );
  const bootsMesh = meshOf(
    'boots',
    [{ name: 'boots', cage: subdivide(bootsCage()), steps: steps - 1, floor: 0 }],
    bootJoints,
    limit,
  );
  const capMesh = meshOf("sou'wester", [{ name: 'cap', cage: capCage(), steps }], ['cap'], limit);
  const lanternMesh = meshOf('lantern', [{ name: 'lantern', cage: lanternCage(), steps: 1 }], null, limit);
  const skins = [
    skinOf('body', nodes, quay),
    skinOf('coat', nodes, coatJoints),
    skinOf('boots', nodes, bootJoints),
    skinOf('cap', nodes, ['cap']),
  ];
  const lanternBone = nodes.findIndex((node) => node.name === 'lantern');
  const world = decompose(restWorld(nodes), lanternBone * 16);
  nodes.push(
    node({ name: 'body', kind: 'mesh', mesh: 0, skin: 0 }),
    node({ name: 'oilskin coat', kind: 'mesh', mesh: 1, skin: 1 }),
    node({ name: 'boots', kind: 'mesh', mesh: 2, skin: 2 }),
    node({ name: "sou'wester", kind: 'mesh', mesh: 3, skin: 3 }),
    node({
      name: 'storm lantern',
      kind: 'mesh',
      mesh: 4,
      parent: lanternBone,
      rotation: quatConjugate(world.rotation),
    }),
  );
  const character = characterOf(
    'Deckhand, clean',
    // A list of its own: world places are kept by list, and this one grew after they were asked for.
    [...nodes],
    [bodyMesh, coatMesh, bootsMesh, capMesh, lanternMesh],
    skins,
  );
  return {
    ...character,
    clips: [hail(character)],
    carried: {
      ...character.carried,
      images: [{ json: { name: 'oilcloth' }, bytes: weave(), mimeType: 'image/png' }],
    },
  };
}

/** “Hail the quay”: the lantern arm comes down to the side and lifts the light; two seconds, looping. */
export function hail(character: Character, called: (quay: string) => string = (name) => name): Clip {
  const times = Float32Array.from({ length: 17 }, (_, i) => i / 8);
  const channels: Channel[] = [];
  const turn = (
    quay: string,
    axis: readonly [number, number, number],
    degrees: (share: number) => number,
  ) => {
    const i = character.nodes.findIndex((node) => node.name === called(quay));
    if (i < 0) return;
    channels.push(turningTrack(character, i, times, axis, (seconds) => degrees(seconds / 2)));
  };
  const wave = (share: number) => Math.sin(share * 2 * Math.PI);
  turn('arm_upper_lt', [0, 0, 1], () => -62);
  turn('arm_upper_rt', [0, 0, 1], (share) => 20 + 14 * wave(share));
  turn('arm_lower_lt', [0, 1, 0], (share) => -18 - 6 * wave(share));
  turn('arm_lower_rt', [0, 1, 0], (share) => 40 + 12 * wave(share));
  turn('spine_3', [0, 1, 0], (share) => 6 * wave(share));
  turn('head', [0, 1, 0], (share) => -14 * wave(share));
  turn('leg_upper_lt', [1, 0, 0], (share) => -8 * wave(share));
  turn('leg_lower_lt', [1, 0, 0], (share) => 10 + 8 * wave(share));
  for (const side of ['lt', 'rt'])
    for (const letter of 'abcde')
      turn(
        `coat_${letter}_1_${side}`,
        [1, 0, 0],
        (share) => 4 * Math.sin(share * 2 * Math.PI + letter.charCodeAt(0)),
      );
  const pelvis = character.nodes.findIndex((node) => node.name === called('pelvis'));
  const rest = character.nodes[pelvis].translation;
  channels.push({
    node: pelvis,
    path: 'translation',
    interpolation: 'LINEAR',
    times,
    values: Float32Array.from(
      [...times].flatMap((time) => [
        rest[0],
        rest[1] - (0.012 * (1 - Math.cos(time * 2 * Math.PI))) / 2,
        rest[2],
      ]),
    ),
  });
  return { name: 'hail the quay', channels };
}
