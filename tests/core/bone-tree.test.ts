/** The tree of bones: how many in a row, and nothing but bones between them. */
import { hungUnder } from '@/core/character/rehang';
import { replaceAt } from '@/core/character/model';
import { briefById } from '@/core/house/briefs';
import { learnBrief } from '@/core/house/learn';
import { checkById, remedyById } from '@/core/house/registry';
import { castCharacter } from './support/cast';
import { chainTube } from './support/chain';

const brief = briefById('handset')!;
const clean = castCharacter('deckhand-clean.glb');
const nodeOf = (name: string) => clean.nodes.findIndex((node) => node.name === name);

describe('bones in a row', () => {
  const depth = checkById('bone-depth')!;
  const asking = (most: number | null) => ({ ...brief, limits: { ...brief.limits, depth: most } });

  it('are counted from the root, and those beyond are told with their way out', () => {
    const chain = chainTube(7);
    expect(depth.run(chain, asking(7))).toEqual([]);
    expect(depth.run(chain, asking(null))).toEqual([]);
    const [finding] = depth.run(chain, asking(5));
    expect(finding).toMatchObject({ measured: 7, expected: 5, count: 2 });
    expect(finding.message).toBe(
      '“bone_7” ends a row of 7 bones from its root; the brief allows 5, and 2 lie beyond',
    );
    const remedy = remedyById(finding.remedies![0].id)!;
    const params = remedy.params.cast(finding.remedies![0].params) as Record<string, unknown>;
    expect(depth.run(remedy.apply(chain, params, asking(5)), asking(5))).toEqual([]);
  });

  it('are learned from a character that is right', () => {
    const named = { id: 'own', title: 'Own', about: '' };
    const { brief: learned } = learnBrief(clean, brief, named);
    expect(depth.run(clean, learned)).toEqual([]);
    const least = { ...learned, limits: { ...learned.limits, depth: (learned.limits.depth ?? 0) - 1 } };
    expect(depth.run(clean, least)).toHaveLength(1);
  });
});

describe('what bones hang on', () => {
  const between = checkById('between-bones')!;

  it('is a bone, or nothing: a hand that hangs on the lantern is told, and hung where it belongs', () => {
    expect(between.run(clean, brief)).toEqual([]);
    const [hand, lantern] = ['hand_lt', 'storm lantern'].map(nodeOf);
    const wrong = {
      ...clean,
      nodes: replaceAt(clean.nodes, new Map([[hand, hungUnder(clean, hand, lantern)]])),
    };
    const [finding] = between.run(wrong, brief);
    expect(finding.message).toBe('“hand_lt” hangs on “storm lantern”, which is no bone');
    const remedy = remedyById(finding.remedies![0].id)!;
    const after = remedy.apply(wrong, finding.remedies![0].params, brief);
    expect(between.run(after, brief)).toEqual([]);
    expect(after.nodes[after.nodes[hand].parent].kind).toBe('bone');
  });
});
