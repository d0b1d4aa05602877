/** Figures in motion as the engine of a brief skins: linearly, or by dual quaternions. */
import { verticesOfPart } from '@/core/anatomy/part-points';
import { turnsOfMotion } from '@/core/anatomy/joint-motions';
import { placePositions } from '@/core/character/deform';
import { placedMeshes } from '@/core/character/measure';
import { positionsOf } from '@/core/character/model';
import { type TrialLimits, USUAL_LIMITS } from '@/core/contracts/trials';
import { dualQuaternionsOf, skinByDualQuaternions } from '@/core/geometry/dual-quaternions';
import { entriesOf, influencesFrom } from '@/core/geometry/influences';
import { skinMatrices } from '@/core/geometry/skinning';
import { briefById } from '@/core/house/briefs';
import { posedWorld } from '@/core/motion/pose';
import { volumeLostCheck } from '@/core/rooms/trials/checks/at-joints';
import { polygonsOf, stretchOfVertices } from '@/core/rooms/trials/concerned';
import { bentBy, stiffParts } from '@/core/rooms/trials/rigid';
import { triedMotions } from '@/core/rooms/trials/motions';
import { trialRows } from '@/core/rooms/trials/rows';
import { castCharacter } from './support/cast';

const deckhand = castCharacter('deckhand-clean.glb');

describe('an engine that skins by dual quaternions', () => {
  const asked = { ...USUAL_LIMITS, skinning: 'dual-quaternion' } as const;

  it('is told what it will show: figures, and what passes a limit', () => {
    const linear = trialRows(deckhand, USUAL_LIMITS);
    const dual = trialRows(deckhand, asked);
    expect(dual.map(({ bone, motion }) => `${bone} ${motion}`)).toEqual(
      linear.map(({ bone, motion }) => `${bone} ${motion}`),
    );
    const turned = (rows: typeof linear) => rows.find(({ motion }) => motion === 'turn out')!;
    expect(turned(dual).volume!).toBeGreaterThan(turned(linear).volume! + 0.1);

    // What only linear skinning loses is no finding there.
    const strict = {
      ...briefById('handset')!,
      trials: { ...USUAL_LIMITS, volume: turned(linear).volume! + 0.05 },
    };
    const lost = (trials: TrialLimits) =>
      volumeLostCheck
        .run(deckhand, { ...strict, trials })
        .filter(({ subject }) => subject.name === turned(linear).bone);
    expect(lost(strict.trials)).toHaveLength(1);
    expect(lost({ ...strict.trials, skinning: 'dual-quaternion' })).toEqual([]);
  });

  it('its points are those of dual quaternions wherever they are posed', () => {
    const [{ mesh, skin, node, points }] = placedMeshes(deckhand).filter(
      (placed) => placed.skin && placed.mesh.influences,
    );
    const motion = triedMotions(deckhand, asked).find((one) => one.motion === 'turn palm down')!;
    const world = posedWorld(deckhand, turnsOfMotion(motion, motion.degrees));
    const wanted = new Float32Array(points.length);
    skinByDualQuaternions(
      positionsOf(mesh),
      mesh.influences!,
      dualQuaternionsOf(skinMatrices(skin!, world)),
      wanted,
    );
    expect(placePositions(positionsOf(mesh), mesh.influences, skin, node, world, 'dual-quaternion')).toEqual(
      wanted,
    );
    const linear = placePositions(positionsOf(mesh), mesh.influences, skin, node, world);
    expect(linear).not.toEqual(wanted);
  });

  it('what is lit, and the picture of stretch, are of the points as they are skinned', () => {
    const palm = (limits: TrialLimits) =>
      triedMotions(deckhand, limits).find(({ motion }) => motion === 'turn palm down')!;
    const motion = palm(asked);
    const world = posedWorld(deckhand, turnsOfMotion(motion, motion.degrees));
    let looked = 0;
    polygonsOf(deckhand, motion, motion.degrees, (surface, posed) => {
      const wanted = new Float32Array(surface.bound.length);
      const duals = dualQuaternionsOf(skinMatrices(surface.placed.skin!, world));
      skinByDualQuaternions(surface.bound, surface.influences, duals, wanted);
      expect(posed).toEqual(wanted);
      looked++;
      return () => false;
    });
    expect(looked).toBeGreaterThan(0);
    const linear = stretchOfVertices(deckhand, palm(USUAL_LIMITS), motion.degrees);
    expect(stretchOfVertices(deckhand, motion, motion.degrees)).not.toEqual(linear);
  });

  it('a rigid part that two bones share alike bends where it is skinned linearly alone', () => {
    // Weights that are the same everywhere blend into one matrix: sheared and shrunk linearly, stiff as a dual quaternion.
    const [part] = stiffParts(deckhand);
    const { mesh: number, skin } = deckhand.nodes[part.node];
    const mesh = deckhand.meshes[number];
    const own = verticesOfPart(mesh, part);
    const bone = part.drivers[0].node;
    const { joints } = deckhand.skins[skin];
    const above = joints.indexOf(deckhand.nodes[bone].parent);
    expect(above).toBeGreaterThanOrEqual(0);
    const half = [joints.indexOf(bone), above].map((joint): [number, number] => [joint, 0.5]);
    const isOwn = new Set(own);
    const rows = Array.from({ length: mesh.vertexCount }, (_, vertex) =>
      isOwn.has(vertex)
        ? half
        : entriesOf(mesh.influences!, vertex).map(({ joint, weight }): [number, number] => [joint, weight]),
    );
    const shared = {
      ...deckhand,
      meshes: deckhand.meshes.map((one, i) =>
        i === number ? { ...one, influences: influencesFrom(rows) } : one,
      ),
    };
    const bentIn = (limits: TrialLimits) => {
      const motions = triedMotions(shared, limits).filter(({ joints: turn }) =>
        turn.some((joint) => joint.bone === bone),
      );
      expect(motions.length).toBeGreaterThan(0);
      return Math.max(...motions.map((motion) => bentBy(shared, part, motion, motion.degrees)));
    };
    expect(bentIn(USUAL_LIMITS)).toBeGreaterThan(1e-5);
    expect(bentIn(asked)).toBeLessThan(bentIn(USUAL_LIMITS) / 20);
  });
});
