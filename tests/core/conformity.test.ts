/** What arrives is the skeleton that was asked for: the written file, read back, bone by bone. */
import { type Skeleton, characterOfSkeleton, skeletonOf } from '@/core/anatomy/skeleton';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { VRM_HUMANOID } from '@/core/anatomy/skeletons/vrm';
import { WEBXR_HAND_LEFT, WEBXR_HAND_RIGHT } from '@/core/anatomy/skeletons/webxr-hand';
import { suggest } from '@/core/anatomy/suggest';
import type { Character } from '@/core/character/model';
import type { SkinBones } from '@/core/contracts/brief';
import { readGltf } from '@/core/formats/gltf/read';
import { writeGlb } from '@/core/formats/gltf/write';
import { quatAbout, quatMultiply } from '@/core/geometry/matrix';
import { conformityOf, conformityText } from '@/core/anatomy/conformity';
import { remap } from '@/core/rooms/crosswalk/remap';
import { castCharacter, handBytes } from './support/cast';
import { validate } from './support/validator';

const EMPTY = {
  missing: [],
  renamed: [],
  otherParent: [],
  otherOrder: [],
  otherRotation: [],
  otherLength: [],
  noticed: [],
};

async function arrived(character: Character, target: Skeleton, skins: SkinBones) {
  const out = remap(character, target, suggest(skeletonOf(character), target), { limit: 4, skins });
  const { bytes } = writeGlb(out.character);
  expect(await validate(bytes)).toEqual([]);
  return { out, conformity: conformityOf(readGltf([{ name: 'x.glb', bytes }]), target) };
}

const clean = () => castCharacter('deckhand-clean.glb');
const hand = (side: 'left' | 'right') => readGltf([{ name: 'hand.glb', bytes: handBytes(side) }]);

describe('the whole skeleton', () => {
  it('of the house, for a figure that was made on it: every bone, as it was', async () => {
    const { conformity } = await arrived(clean(), QUAY, 'whole');
    expect(conformity).toMatchObject(EMPTY);
    const kept = suggest(skeletonOf(clean()), QUAY).filter((rule) => rule.kind === 'keep');
    expect(conformity.surplus.length).toBe(kept.length);
    expect(conformityText(conformity)[0]).toBe('60 of 60 bones of the skeleton are there under their names.');
  });
  it('finger tips that carry nothing are there for the game too', async () => {
    for (const [side, target] of [
      ['left', WEBXR_HAND_LEFT],
      ['right', WEBXR_HAND_RIGHT],
    ] as const) {
      const whole = await arrived(hand(side), target, 'whole');
      expect([whole.conformity.missing, whole.out.report.skin.listed]).toEqual([[], 25]);
      const needed = await arrived(hand(side), target, 'needed');
      expect(needed.conformity.missing.length).toBe(25 - needed.out.report.skin.listed);
      expect(needed.conformity.missing).toContain('index-finger-tip');
      expect(needed.conformity.noticed).toEqual(expect.arrayContaining([...needed.conformity.missing]));
    }
  });
  it('keeps its axes where a pelvis holds spine and thighs, whose ways cancel in their mean', async () => {
    for (const file of ['deckhand-clean.glb', 'stoker.dae']) {
      const { conformity } = await arrived(castCharacter(file), VRM_HUMANOID, 'whole');
      const turned = new Map(conformity.otherRotation.map((o) => [o.bone, o.degrees]));
      for (const bone of ['spine', 'leftUpperLeg', 'rightUpperLeg'])
        expect([bone, (turned.get(bone) ?? 0) < 12]).toEqual([bone, true]);
    }
  });
});

describe('what is otherwise is told', () => {
  const of = (skeleton: Skeleton) => conformityOf(characterOfSkeleton(skeleton), QUAY);
  const at = (name: string) => QUAY.bones.findIndex((bone) => bone.name === name);
  const changed = (name: string, change: Partial<Skeleton['bones'][number]>): Skeleton => ({
    ...QUAY,
    bones: QUAY.bones.map((bone) => (bone.name === name ? { ...bone, ...change } : bone)),
  });
  it('nothing, of the skeleton itself', () => {
    expect(of(QUAY)).toMatchObject({ ...EMPTY, surplus: [] });
  });
  it('a name', () => {
    expect(of(changed('hand_lt', { name: 'palm' }))).toMatchObject({
      missing: [],
      surplus: [],
      renamed: [{ bone: 'hand_lt', is: 'palm' }],
    });
  });
  it('a parent', () => {
    const { otherParent, noticed } = of(changed('hand_lt', { parent: at('arm_upper_lt') }));
    expect(otherParent).toEqual([{ bone: 'hand_lt', is: 'arm_upper_lt', wanted: 'arm_lower_lt' }]);
    expect(noticed).toContain('hand_lt');
  });
  it('a length, which a shared animation of turns does not show', () => {
    const [x, y, z] = QUAY.bones[at('head')].place;
    const { otherLength, noticed } = of(changed('head', { place: [x, y + 0.02, z] }));
    expect(otherLength.map((o) => o.bone)).toEqual(['head']);
    expect(otherLength[0].is - otherLength[0].wanted).toBeCloseTo(0.02, 3);
    expect(noticed).toEqual([]);
  });
  it('a turn at rest, of the bone and of what hangs on it', () => {
    const turn = quatAbout([0, 0, 1], Math.PI / 6);
    const rotation = quatMultiply(turn, QUAY.bones[at('head')].rotation);
    const { otherRotation } = of(changed('head', { rotation }));
    expect(otherRotation.map((o) => [o.bone, Math.round(o.degrees)])).toEqual([['head', 30]]);
  });
  it('the order in a skin', () => {
    const out = remap(clean(), QUAY, suggest(skeletonOf(clean()), QUAY), { limit: 4 }).character;
    const skins = out.skins.map((skin) => ({
      ...skin,
      joints: [skin.joints[1], skin.joints[0], ...skin.joints.slice(2)],
    }));
    expect(conformityOf({ ...out, skins }, QUAY).otherOrder).toEqual([
      out.nodes[out.skins[0].joints[1]].name,
    ]);
  });
});
