/** Names that say a side, against where the bones stand. */
import { makeBeast } from '@/bench/match/beasts';
import { bodyOf } from '@/bench/bodies/body';
import { ANY_BODY } from '@/bench/bodies/report';
import { makeFigure, makeRandom } from '@/bench/match/figures';
import { HABITS } from '@/bench/match/habits';
import { looksOf } from '@/core/anatomy/looks';
import { skeletonOf } from '@/core/anatomy/skeleton';
import { exchangedSides } from '@/core/anatomy/twins';
import type { Character } from '@/core/character/model';
import { audit } from '@/core/house/audit';
import { remedyById } from '@/core/house/registry';
import type { Finding } from '@/core/contracts/finding';
import { castCharacter } from './support/cast';

/** The character with the names of both sides exchanged, of all bones or of those whose names match. */
function exchanged(character: Character, which = /./): Character {
  const skeleton = skeletonOf(character);
  const { side } = looksOf(skeleton);
  const bones = skeleton.bones.flatMap((bone, i) => (side[i] !== 0 && which.test(bone.name) ? [i] : []));
  const table = exchangedSides(skeleton, bones);
  return {
    ...character,
    nodes: character.nodes.map((node) => ({ ...node, name: table[node.name] ?? node.name })),
  };
}

const said = (character: Character, check: string, mark?: string): Finding[] =>
  audit(character, ANY_BODY).filter(
    (finding) => finding.check === check && (!mark || finding.key.includes(mark)),
  );

/** The character after the first remedy of a finding. */
function mended(character: Character, finding: Finding): Character {
  const [{ id, params }] = finding.remedies!;
  return remedyById(id)!.apply(character, params as never, ANY_BODY);
}

describe('the clean Deckhand', () => {
  const clean = castCharacter('deckhand-clean.glb');

  it('has every bone on the side that its name says', () => {
    expect(said(clean, 'sides')).toEqual([]);
    expect(said(clean, 'facing', 'crossed')).toEqual([]);
  });

  it('with the names of both arms exchanged: the arms are named, and one press names them right', () => {
    const character = exchanged(clean, /^(collar|arm|hand|thumb|index|middle|ring|little)/);
    const [finding] = said(character, 'sides');
    expect(finding).toMatchObject({ gravity: 'stops', count: expect.any(Number) });
    expect(finding.count).toBeGreaterThan(20);
    expect(finding.message).not.toMatch(/leg|foot/);
    const names = (otherCharacter: Character) => otherCharacter.nodes.map((node) => node.name);
    expect(names(mended(character, finding))).toEqual(names(clean));
  });

  it('with all of them exchanged: its facing says so, and one press names them right', () => {
    const character = exchanged(clean);
    expect(said(character, 'sides')).toEqual([]);
    const [finding] = said(character, 'facing', 'crossed');
    expect(finding.message).toMatch(/Left and right are exchanged/);
    expect(said(mended(character, finding), 'facing', 'crossed')).toEqual([]);
  });
});

it('beasts: nothing where names are right, and said where left and right are exchanged in all of them', () => {
  const random = makeRandom(4711);
  let asked = 0;
  let found = 0;
  for (let node = 0; node < 60; node++) {
    const beast = makeBeast(random, { steady: true });
    if (beast.speaks === 'nothing') continue;
    const body = bodyOf(beast);
    expect(said(body, 'sides')).toEqual([]);
    expect(said(body, 'facing', 'crossed')).toEqual([]);
    asked++;
    if (said(exchanged(body), 'facing', 'crossed').length > 0) found++;
  }
  expect(asked).toBeGreaterThan(30);
  expect(found).toBeGreaterThanOrEqual(0.95 * asked);
});

it('people in any habit and stance: nothing', () => {
  const random = makeRandom(4711);
  for (const habit of HABITS)
    expect(said(bodyOf(makeFigure(random, 'human', habit, { steady: true })), 'sides')).toEqual([]);
});
