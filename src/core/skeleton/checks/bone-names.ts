import { type Check, type Finding, boneElements, finding, theCharacter } from '../../audit/types';
import { bonesOf, weightOfNodes } from '../../character/hierarchy';
import { otherSideName } from '../names';

const few = (names: readonly string[]) =>
  `${names
    .slice(0, 3)
    .map((n) => `“${n}”`)
    .join(', ')}${names.length > 3 ? ` and ${names.length - 3} more` : ''}`;

/** Bone names: the brief's convention, duplicates, leftovers of copying, and a left for every right. */
export const boneNamesCheck: Check = {
  id: 'bone-names',
  room: 'skeleton',
  title: 'Bone names',
  why: 'Clips, retargeting and mirroring find bones by name: a name that is not what the game expects is a bone that does not move.',
  run(character, brief) {
    const bones = bonesOf(character);
    const names = bones.map((b) => character.nodes[b].name);
    const out: Finding[] = [];
    const report = (
      mark: string,
      gravity: Finding['gravity'],
      list: number[],
      message: string,
      expected: string,
      remedies: Finding['remedies'] = [],
    ) => {
      if (list.length === 0) return;
      out.push(
        finding(
          boneNamesCheck,
          {
            gravity,
            subject: theCharacter(character),
            unit: 'bones',
            message,
            measured: list.length,
            expected,
            remedies,
            evidence: [{ label: 'Bones concerned', now: list.length, brief: 0, unit: 'bones' }],
            elements: [boneElements(list)],
          },
          mark,
        ),
      );
    };
    const pattern = new RegExp(brief.naming.pattern);
    const leftovers = new RegExp(brief.naming.leftovers, 'i');
    const nameOf = (b: number) => character.nodes[b].name;

    const seen = new Map<string, number[]>();
    bones.forEach((b, i) => seen.set(names[i], [...(seen.get(names[i]) ?? []), b]));
    const doubled = [...seen.values()].filter((l) => l.length > 1).flat();
    report(
      'doubled',
      'stops',
      doubled,
      `${doubled.length} bones share a name: ${few([...new Set(doubled.map(nameOf))])}`,
      'every name once',
      [{ id: 'rename', params: {} }],
    );

    const leftover = bones.filter((b) => leftovers.test(nameOf(b)));
    report(
      'leftover',
      'worth',
      leftover,
      `${leftover.length === 1 ? 'A name has' : `${leftover.length} names have`} a leftover of copying or mirroring: ${few(leftover.map(nameOf))}`,
      'no leftovers',
      [
        {
          id: 'rename',
          params: {
            table: Object.fromEntries(
              leftover.map((b) => [
                nameOf(b),
                nameOf(b).replace(new RegExp(`[_.\\- ]?${brief.naming.leftovers}`, 'ig'), ''),
              ]),
            ),
          },
        },
      ],
    );

    const all = new Set(names);
    const weight = weightOfNodes(character);
    const widow = bones
      .filter((b) => {
        const other = otherSideName(nameOf(b));
        const base = nameOf(b).replace(new RegExp(`[_.\\- ]?${brief.naming.leftovers}`, 'ig'), '');
        return weight[b] > 0 && other !== null && !all.has(other) && base === nameOf(b);
      })
      .filter((b) => {
        // A side whose partner only has a copy's name is told once, by its leftover.
        const other = otherSideName(nameOf(b)) as string;
        return !leftover.some((l) => nameOf(l).startsWith(other));
      });
    report(
      'one-sided',
      'worth',
      widow,
      `${widow.length === 1 ? 'A bone lacks' : `${widow.length} bones lack`} the other side: ${few(widow.map(nameOf))}`,
      'a left for every right',
    );

    const odd = bones.filter((b) => !pattern.test(nameOf(b)));
    report(
      'convention',
      'worth',
      odd,
      `${odd.length} of ${bones.length} names do not follow the convention: ${few(odd.map(nameOf))}`,
      brief.naming.words,
      [{ id: 'rename', params: {} }],
    );
    const long = bones.filter((b) => nameOf(b).length > brief.naming.longest);
    report(
      'long',
      'worth',
      long,
      `${long.length} names are longer than ${brief.naming.longest} characters: ${few(long.map(nameOf))}`,
      `${brief.naming.longest} characters`,
    );
    return out;
  },
};
