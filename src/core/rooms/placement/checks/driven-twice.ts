import { object } from 'yup';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { theNode, type RemedyCall } from '../../../contracts/finding';
import { inUnit, unitSign } from '../../../contracts/units';
import { defineCheck } from '../../../contracts/check';
import type { Character } from '../../../character/model';
import { restWorld } from '../../../character/hierarchy';
import { distance } from '../../../geometry/matrix';
import { probedWorld, probesOf } from '../../../motion/probe';
import { type Twice, drivenTwice } from '../drivers';

/**
 * How far the node that moves a mesh too goes in the trial poses: what a program that follows both adds on
 * top.
 */
function addFound(character: Character, { other }: Twice): number {
  const rest = restWorld(character.nodes);
  const at = (world: Float64Array, k: number) => world.subarray(other * 16 + k, other * 16 + k + 3);
  return probesOf(character).reduce((most, probe) => {
    const world = probedWorld(character, probe);
    // A turn alone moves what lies a forearm's length away.
    const turn = Math.max(...[0, 4, 8].map((k) => distance(at(world, k), at(rest, k)))) * 0.25;
    return Math.max(most, distance(at(world, 12), at(rest, 12)) + turn);
  }, 0);
}

/** One driver for each thing: bound and carried, rigid and bound, bound twice. */
export const drivenTwiceCheck = defineCheck({
  id: 'driven-twice',
  room: 'placement',
  title: 'One driver each',
  why: 'What is bound to bones and hangs on one as well moves twice as far in every program that follows both, and not at all in those that follow neither.',
  settings: object({}),
  reads: [...SHAPE_AT_REST, 'names', 'clips'],
  run(character, brief) {
    const nameOf = (i: number) => character.nodes[i].name || `node ${i}`;
    return drivenTwice(character).map((twice) => {
      const message = messageOf(twice, nameOf);
      const more = twice.kind === 'bound twice' ? null : addFound(character, twice);
      return {
        gravity: 'stops',
        subject: theNode(character, twice.node),
        unit: '',
        count: 1,
        message,
        measured: 'two drivers',
        expected: 'one',
        evidence: [
          { label: 'Drivers', now: 2, brief: 1, unit: '' },
          { label: 'The other one', now: nameOf(twice.other), brief: '—', unit: '' },
          ...(more === null
            ? []
            : [
                {
                  label: 'Moves on top, in the trial poses',
                  now: inUnit(more, brief.unit),
                  brief: 0,
                  unit: unitSign(brief.unit),
                },
              ]),
        ],
        elements: [
          {
            kind: 'node',
            node: twice.node,
            ids: Uint32Array.from(twice.kind === 'bound twice' ? [twice.node, twice.other] : [twice.node]),
          },
        ],
        remedies: remediesFor(twice),
        mark: twice.kind,
      };
    });
  },
});

function messageOf(twice: Twice, nameOf: (node: number) => string): string {
  const name = nameOf(twice.node);
  const other = nameOf(twice.other);
  if (twice.kind === 'bound twice') return `“${name}” and “${other}” bind and show the same surface`;
  if (twice.kind === 'rigid, hung and bound')
    return `“${name}” is a rigid part that hangs on “${other}” and is bound to “${nameOf(twice.bone)}” as well`;
  return `“${name}” is bound to bones and also hangs under “${other}”, which moves`;
}

function remediesFor(twice: Twice): RemedyCall[] {
  const choose = (node: number, driver: string) => ({ id: 'choose-driver', params: { node, driver } });
  if (twice.kind === 'bound twice') return [choose(twice.other, 'only this')];
  if (twice.kind === 'rigid, hung and bound')
    return [choose(twice.node, 'parent'), choose(twice.node, 'bones')];
  return [choose(twice.node, 'bones')];
}
