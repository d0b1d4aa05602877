import { object } from 'yup';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { type Gravity, type RemedyCall, boneElements, theCharacter } from '../../../contracts/finding';
import { type Found, defineCheck } from '../../../contracts/check';
import { allowedText, inUnit, lengthText, unitSign } from '../../../contracts/units';
import type { BriefBase } from '../../../contracts/brief';
import { REST } from '../settings';
import type { Character } from '../../../character/model';
import { isIdentity } from '../../../character/baked';
import { type SkinBind, bindsOf } from '../../../character/bind';
import { decompose } from '../../../geometry/matrix';

const skinName = (character: Character, skin: number) =>
  character.skins[skin].name || character.nodes.find((node) => node.skin === skin)?.name || `skin ${skin}`;

function disagreeing(
  character: Character,
  brief: BriefBase & { readonly restTolerance: number },
  wanted: (bind: SkinBind) => boolean,
  say: (name: string, joints: number, of: number, worst: string) => string,
  remedies: (bind: SkinBind) => RemedyCall[],
  gravity: Gravity,
): Found[] {
  return bindsOf(character, brief.restTolerance).flatMap((bind) => {
    const off = bind.joints
      .filter((joint) => joint.apart > brief.restTolerance)
      .sort((x, y) => y.apart - x.apart);
    if (off.length === 0 || !wanted(bind) || !character.nodes.some((node) => node.skin === bind.skin))
      return [];
    return [
      {
        gravity,
        subject: { ...theCharacter(character), name: skinName(character, bind.skin) },
        unit: unitSign(brief.unit),
        count: off.length,
        elements: [boneElements(off.map((otherBind) => otherBind.node))],
        message: `${say(
          skinName(character, bind.skin),
          off.length,
          bind.joints.length,
          lengthText(off[0].apart, brief.unit),
        )}; ${allowedText(brief.restTolerance, brief.unit)}`,
        measured: inUnit(off[0].apart, brief.unit),
        expected: 0,
        evidence: [
          ...off.slice(0, 4).map((otherBind) => ({
            label: `Rest and bind apart at ${character.nodes[otherBind.node].name || `node ${otherBind.node}`}`,
            now: inUnit(otherBind.apart, brief.unit),
            brief: inUnit(brief.restTolerance, brief.unit),
            unit: unitSign(brief.unit),
          })),
          { label: 'Joints concerned', now: off.length, brief: 0, unit: 'bones' },
        ],
        remedies: remedies(bind),
      },
    ];
  });
}

/** The current pose differs from the bind pose by turns of joints, as a pose does. */
export const notAtRestCheck = defineCheck({
  id: 'not-at-rest',
  room: 'placement',
  title: 'At rest',
  why: 'The skeleton stands in a pose and not where it was bound: binding, measuring or mirroring now would bake the pose in.',
  settings: object({ ...REST }),
  reads: [...SHAPE_AT_REST, 'names'],
  measures: (character) => ({
    restTolerance:
      character.skins.length === 0
        ? null
        : bindsOf(character).reduce(
            (most, bind) => bind.joints.reduce((most, joint) => Math.max(most, joint.apart), most),
            0,
          ),
  }),
  run: (character, brief) =>
    disagreeing(
      character,
      brief,
      (bind) => bind.posed,
      (name, count, of, worst) =>
        `“${name}” stands in a pose: ${count} of ${of} joints are away from the bind, up to ${worst}`,
      (bind) => [
        { id: 'return-to-rest', params: {} },
        { id: 'recompute-binds', params: { skin: bind.skin, keep: 'shape' } },
      ],
      'worth',
    ),
});

/** Inverse binds that no pose of the joints explains: lengths or scales differ. */
export const inverseBindsCheck = defineCheck({
  id: 'inverse-binds',
  room: 'placement',
  title: 'Inverse binds and rest pose',
  why: 'The inverse binds say where the joints stood when the mesh was bound; where the skeleton has changed since, the skin is pulled out of shape at rest already.',
  settings: object({ ...REST }),
  reads: [...SHAPE_AT_REST, 'names'],
  run: (character, brief) => [
    ...disagreeing(
      character,
      brief,
      (bind) => !bind.posed,
      (name, count, of, worst) =>
        `“${name}”: the inverse binds of ${count} of ${of} joints disagree with the rest pose, up to ${worst}`,
      (bind) => [
        { id: 'recompute-binds', params: { skin: bind.skin, keep: 'bind' } },
        { id: 'recompute-binds', params: { skin: bind.skin, keep: 'shape' } },
        { id: 'return-to-rest', params: {} },
      ],
      'stops',
    ),
    ...bindsOf(character, brief.restTolerance).flatMap((bind): Found[] => {
      const { scale } = decompose(bind.common);
      if (
        isIdentity(bind.common, 1e-4) ||
        scale.every((factor) => Math.abs(factor - 1) < 1e-3) ||
        !character.nodes.some((node) => node.skin === bind.skin)
      )
        return [];
      const words = scale.map((factor) => Number(factor.toPrecision(4))).join(' × ');
      return [
        {
          gravity: 'worth',
          subject: { ...theCharacter(character), name: skinName(character, bind.skin) },
          unit: '×',
          count: 1,
          message: `“${skinName(character, bind.skin)}” is bound through a scale of ${words}: its points have another size than it shows`,
          measured: words,
          expected: '1 × 1 × 1',
          evidence: [{ label: 'Scale hidden in the bind', now: words, brief: '1 × 1 × 1', unit: '×' }],
          remedies: [{ id: 'recompute-binds', params: { skin: bind.skin, keep: 'shape' } }],
          mark: 'scale',
        },
      ];
    }),
  ],
});
