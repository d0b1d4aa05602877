/** Figures in motion as the engine of a brief skins: linearly, or by dual quaternions. */
import { turnsOfMotion } from '@/core/anatomy/joint-motions';
import { placePositions } from '@/core/character/deform';
import { placedMeshes } from '@/core/character/measure';
import { positionsOf } from '@/core/character/model';
import { type TrialLimits, USUAL_LIMITS } from '@/core/contracts/trials';
import { dualQuaternionsOf, skinByDualQuaternions } from '@/core/geometry/dual-quaternions';
import { skinMatrices } from '@/core/geometry/skinning';
import { briefById } from '@/core/house/briefs';
import { posedWorld } from '@/core/motion/pose';
import { volumeLostCheck } from '@/core/rooms/trials/checks/at-joints';
import { triedMotions } from '@/core/rooms/trials/motions';
import { trialRows } from '@/core/rooms/trials/rows';
import { castCharacter } from './support/cast';

const clean = castCharacter('deckhand-clean.glb');

describe('an engine that skins by dual quaternions', () => {
  const asked = { ...USUAL_LIMITS, skinning: 'dual-quaternion' } as const;

  it('is told what it will show: figures, and what passes a limit', () => {
    const linear = trialRows(clean, USUAL_LIMITS);
    const dual = trialRows(clean, asked);
    expect(dual.map(({ bone, motion }) => `${bone} ${motion}`)).toEqual(
      linear.map(({ bone, motion }) => `${bone} ${motion}`),
    );
    const palm = (rows: typeof linear) => rows.find(({ motion }) => motion === 'turn palm down')!;
    expect(palm(dual).volume!).toBeGreaterThan(palm(linear).volume! + 0.1);

    // What only linear skinning loses is no finding there.
    const strict = {
      ...briefById('handset')!,
      trials: { ...USUAL_LIMITS, volume: palm(linear).volume! + 0.05 },
    };
    const lost = (trials: TrialLimits) =>
      volumeLostCheck
        .run(clean, { ...strict, trials })
        .filter(({ subject }) => subject.name === palm(linear).bone);
    expect(lost(strict.trials)).toHaveLength(1);
    expect(lost({ ...strict.trials, skinning: 'dual-quaternion' })).toEqual([]);
  });

  it('its points are those of dual quaternions wherever they are posed', () => {
    const [{ mesh, skin, node, points }] = placedMeshes(clean).filter(
      (placed) => placed.skin && placed.mesh.influences,
    );
    const motion = triedMotions(clean, asked).find((one) => one.motion === 'turn palm down')!;
    const world = posedWorld(clean, turnsOfMotion(motion, motion.degrees));
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
});
