import { boolean, object } from 'yup';
import { bodyKindOf } from '../../../anatomy/body-kind';
import type { Skeleton } from '../../../anatomy/skeleton';
import {
  type SkeletonTemplate,
  TEMPLATE_CHOICES,
  type TemplateChoice,
  templateOf,
} from '../../../anatomy/skeletons/templates';
import { bonesOf } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';
import { NEW_NODES } from '../../../contracts/aspect';
import type { BriefBase } from '../../../contracts/brief';
import { choiceOf } from '../../../contracts/params';
import { RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { lengthText } from '../../../contracts/units';
import { FitError, fittedSkeleton, withSkeleton } from '../fit-template';

interface Putting {
  readonly template: TemplateChoice;
  readonly needed: boolean;
}

/** Joints that are told before and after. */
const TOLD = /^(pelvis|hips|head|skullbase|.*hand.*|.*wrist|.*foot.*|.*ankle)$/i;

/** Puts a skeleton of the house, or the wanted one, into a body without bones. */
export const putSkeleton = defineRemedy({
  id: 'put-skeleton',
  room: 'skeleton',
  title: 'Put a skeleton into it',
  does: 'The bones come where the body’s size, its hands and its feet say; elbows, wrists, knees and ankles stand in the middle of their limbs, both sides alike. A beginning: move one side to where it belongs, mirror it, and bind the mesh. A beast is measured by its box alone, and has to face +Z.',
  params: object({
    template: choiceOf('Bones as', TEMPLATE_CHOICES).default('wanted'),
    needed: boolean().default(false).meta({ label: 'Only the bones that are needed' }),
  }),
  rows(character, params, brief: BriefBase) {
    const { bones } = fitted(character, params, brief);
    const there = bonesOf(character).length;
    return [
      { label: 'Bones', value: there, unit: 'bones' },
      ...bones
        .filter(({ name }) => TOLD.test(name))
        .slice(0, 8)
        .map(({ name, place }) => ({
          label: name,
          value: there > 0 ? place.map((x) => lengthText(x, brief.unit)).join(', ') : 'not there',
          unit: '',
        })),
    ];
  },
  promises: () => promise([...NEW_NODES, 'joints', 'binds']),
  apply(character, params, brief: BriefBase): Character {
    if (bonesOf(character).length > 0)
      throw new RemedyError('It has bones already; bones that are missing among them are put in one by one.');
    return withSkeleton(character, fitted(character, params, brief));
  },
});

function fitted(character: Character, { template: choice, needed }: Putting, brief: BriefBase): Skeleton {
  const template = templateOf(choice, brief, bodyKindOf(character).kind);
  if (!template)
    throw new RemedyError(
      'Without bones nothing tells which kind of body it is; choose a skeleton by its name.',
    );
  try {
    return fittedSkeleton(character, template, needed ? withoutRoots(template) : new Set());
  } catch (error) {
    if (error instanceof FitError) throw new RemedyError(error.message);
    throw error;
  }
}

/** What may be left out; the root stays, so that there is one. */
function withoutRoots({ skeleton, optional }: SkeletonTemplate): Set<string> {
  const roots = skeleton.bones.filter(({ parent }) => parent < 0).map(({ name }) => name);
  return new Set([...optional].filter((name) => !roots.includes(name)));
}
