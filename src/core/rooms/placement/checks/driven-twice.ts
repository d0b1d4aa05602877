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
  const at = (w: Float64Array, k: number) => w.subarray(other * 16 + k, other * 16 + k + 3);
  return probesOf(character).reduce((most, p) => {
    const w = probedWorld(character, p);
    // A turn alone moves what lies a forearm's length away.
    const turn = Math.max(...[0, 4, 8].map((k) => distance(at(w, k), at(rest, k)))) * 0.25;
    return Math.max(most, distance(at(w, 12), at(rest, 12)) + turn);
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
    return drivenTwice(character).map((t) => {
      const message = messageOf(t, nameOf);
      const more = t.kind === 'bound twice' ? null : addFound(character, t);
      return {
        gravity: 'stops',
        subject: theNode(character, t.node),
        unit: '',
        count: 1,
        message,
        measured: 'two drivers',
        expected: 'one',
        evidence: [
          { label: 'Drivers', now: 2, brief: 1, unit: '' },
          { label: 'The other one', now: nameOf(t.other), brief: '—', unit: '' },
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
            node: t.node,
            ids: Uint32Array.from(t.kind === 'bound twice' ? [t.node, t.other] : [t.node]),
          },
        ],
        remedies: remediesFor(t),
        mark: t.kind,
      };
    });
  },
});

function messageOf(t: Twice, nameOf: (node: number) => string): string {
  const name = nameOf(t.node);
  const other = nameOf(t.other);
  if (t.kind === 'bound twice') return `“${name}” and “${other}” bind and show the same surface`;
  if (t.kind === 'rigid, hung and bound')
    return `“${name}” is a rigid part that hangs on “${other}” and is bound to “${nameOf(t.bone)}” as well`;
  return `“${name}” is bound to bones and also hangs under “${other}”, which moves`;
}

function remediesFor(t: Twice): RemedyCall[] {
  const choose = (node: number, driver: string) => ({ id: 'choose-driver', params: { node, driver } });
  if (t.kind === 'bound twice') return [choose(t.other, 'only this')];
  if (t.kind === 'rigid, hung and bound') return [choose(t.node, 'parent'), choose(t.node, 'bones')];
  return [choose(t.node, 'bones')];
}
