import { type Check, finding, theNode } from '../../audit/types';
import { inUnit } from '../../audit/brief';
import type { Character } from '../../character/model';
import { restWorld } from '../../character/hierarchy';
import { distance } from '../../geometry/matrix';
import { probedWorld, probesOf } from '../../trials/probe';
import { type Twice, drivenTwice } from '../drivers';

/** How far the node that moves a mesh too goes in the trial poses: what a program that follows both adds on top. */
function added(character: Character, { other }: Twice): number {
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
export const drivenTwiceCheck: Check = {
  id: 'driven-twice',
  room: 'placement',
  title: 'One driver each',
  why: 'What is bound to bones and hangs on one as well moves twice as far in every program that follows both, and not at all in those that follow neither.',
  run(character, brief) {
    const nameOf = (i: number) => character.nodes[i].name || `node ${i}`;
    return drivenTwice(character).map((t) => {
      const message =
        t.kind === 'bound twice'
          ? `“${nameOf(t.node)}” and “${nameOf(t.other)}” bind and show the same surface`
          : t.kind === 'rigid, hung and bound'
            ? `“${nameOf(t.node)}” is a rigid part that hangs on “${nameOf(t.other)}” and is bound to “${nameOf(t.bone)}” as well`
            : `“${nameOf(t.node)}” is bound to bones and also hangs under “${nameOf(t.other)}”, which moves`;
      const more = t.kind === 'bound twice' ? null : added(character, t);
      return finding(
        drivenTwiceCheck,
        {
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
                    unit: brief.unit,
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
          remedies:
            t.kind === 'bound twice'
              ? [{ id: 'choose-driver', params: { node: t.other, driver: 'only this' } }]
              : t.kind === 'rigid, hung and bound'
                ? [
                    { id: 'choose-driver', params: { node: t.node, driver: 'parent' } },
                    { id: 'choose-driver', params: { node: t.node, driver: 'bones' } },
                  ]
                : [{ id: 'choose-driver', params: { node: t.node, driver: 'bones' } }],
        },
        t.kind,
      );
    });
  },
};
