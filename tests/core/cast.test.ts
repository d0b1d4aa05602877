import { previewRemedy } from '@/core/house/preview';
import { audit } from '@/core/house/audit';
import { briefById } from '@/core/house/briefs';
import { remedyById } from '@/core/house/registry';
import { brokenInvariants } from '@/core/character/invariants';
import { readGltf } from '@/core/formats/gltf/read';
import { writeGlb } from '@/core/formats/gltf/write';
import { suggest } from '@/core/anatomy/suggest';
import { remap } from '@/core/rooms/crosswalk/remap';
import { posesFor, trialPoses } from '@/core/rooms/crosswalk/poses';
import { prove } from '@/core/rooms/crosswalk/proof';
import { skeletonOf } from '@/core/anatomy/skeleton';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { WINGED } from '@/core/anatomy/skeletons/winged';
import { conformityOf } from '@/core/anatomy/conformity';
import type { Character } from '@/core/character/model';
import { DECKHAND_FAULTS, HERON_FAULTS } from '@/demo/faults';
import { TRIANGLES_FAULTS } from '@/demo/triangles';
import { cleanHeron } from '@/demo/heron';
import { castCharacter } from './support/cast';
import { structuralDifferences } from './support/compare';
import { validate } from './support/validator';

const handset = briefById('handset')!;
const winged = briefById('winged')!;
const files = ['deckhand.glb', 'deckhand-clean.glb', 'heron.glb', 'quay-skeleton.glb'];

describe.each(files)('%s', (file) => {
  const character = castCharacter(`fine/${file}`);
  it('keeps the invariants', () => expect(brokenInvariants(character)).toEqual([]));
  it('comes back the same after export and import, weights as they are', () => {
    expect(
      structuralDifferences(
        character,
        readGltf([{ name: file, bytes: writeGlb(character, { keepSums: true }).bytes }]),
      ),
    ).toEqual([]);
  });
  it('is written without validator errors', async () => {
    // The faulty one has points without weight on purpose; nothing else may be left for the validator to say.
    const errors = (await validate(writeGlb(character).bytes)).filter(
      (entry) => file !== 'deckhand.glb' || !entry.startsWith('ACCESSOR_WEIGHTS_NON_NORMALIZED'),
    );
    expect(errors).toEqual([]);
  });
});

it('the clean Deckhand has no finding under either game brief that stops or is worth fixing', () => {
  for (const id of ['handset', 'desktop'])
    expect(
      audit(castCharacter('fine/deckhand-clean.glb'), briefById(id)!)
        .filter((finding) => finding.gravity !== 'note')
        .map((finding) => finding.message),
    ).toEqual([]);
});

it('every planted fault of the Deckhand is found, and nothing else stops hand-off', () => {
  const findings = audit(castCharacter('fine/deckhand.glb'), handset);
  const found = (gravity: string) =>
    [
      ...new Set(findings.filter((finding) => finding.gravity === gravity).map((finding) => finding.check)),
    ].sort();
  const planted = (gravity: string) =>
    DECKHAND_FAULTS.filter((fault) => fault.gravity === gravity)
      .map((fault) => fault.check)
      .sort();
  expect(planted('stops').length + planted('worth').length).toBeGreaterThanOrEqual(8);
  expect(found('stops')).toEqual(planted('stops'));
  expect(found('worth')).toEqual(planted('worth'));
});

it('the Heron is clean as it should be, and every planted fault of the delivered one is found, and no other', () => {
  const open = (character: Character) =>
    audit(character, winged).filter((finding) => finding.gravity !== 'note');
  expect(open(cleanHeron(1)).map(({ message }) => message)).toEqual([]);
  const found = new Set(open(castCharacter('heron.glb')).map(({ gravity, check }) => `${gravity} ${check}`));
  expect([...found].sort()).toEqual(HERON_FAULTS.map(({ gravity, check }) => `${gravity} ${check}`).sort());
});

it('the Deckhand of bare triangles: every planted fault of his surface is found and no other, and first remedies lead to none', () => {
  let character = castCharacter('deckhand-triangles.glb');
  expect(character.meshes.map(({ polygonOrigin }) => polygonOrigin)).toEqual(
    character.meshes.map(() => 'recovered'),
  );
  const open = () => audit(character, handset);
  const told = new Set(
    open().flatMap(({ gravity, check }) => (gravity === 'note' ? [] : [`${gravity} ${check}`])),
  );
  expect([...told].sort()).toEqual(
    TRIANGLES_FAULTS.map(({ gravity, check }) => `${gravity} ${check}`).sort(),
  );
  for (let i = 0; i < 12; i++) {
    const [first] = open();
    if (!first) break;
    const { id, params } = first.remedies[0];
    const remedy = remedyById(id)!;
    character = remedy.apply(character, remedy.params.cast(params) as Record<string, unknown>, handset);
  }
  expect(open().map(({ message }) => message)).toEqual([]);
  // It is the clean one again, point by point.
  const clean = castCharacter('deckhand-clean.glb');
  expect(
    character.meshes.map(({ vertexCount, polygonOffsets }) => [vertexCount, polygonOffsets.length > 100]),
  ).toEqual(clean.meshes.map(({ vertexCount }) => [vertexCount, true]));
});

it('the Heron goes from two skeletons to one that passes by the first remedies that its findings offer', async () => {
  let character = castCharacter('heron.glb');
  const done: string[] = [];
  for (let i = 0; i < 8; i++) {
    const next = audit(character, winged).find(({ gravity, remedies }) => gravity !== 'note' && remedies[0]);
    if (!next) break;
    const remedy = remedyById(next.remedies[0].id)!;
    const params = remedy.params.validateSync(next.remedies[0].params) as Record<string, unknown>;
    const { effects, after } = previewRemedy(remedy, character, params, winged);
    expect(effects.outside).toEqual([]);
    expect(brokenInvariants(after)).toEqual([]);
    done.push(remedy.id);
    character = after;
  }
  expect(done).toEqual(['graft', 'mirror-branch', 'give-to-parent']);
  expect(audit(character, winged).map(({ message }) => message)).toEqual([]);
  // Bone by bone it is the skeleton that the game wants, with the coat's on it.
  expect(conformityOf(character, WINGED)).toMatchObject({
    missing: [],
    otherParent: [],
    otherRotation: [],
    otherLength: [],
  });
  expect(await validate(writeGlb(character).bytes)).toEqual([]);
});

it('keys of findings are stable over re-runs and unique', () => {
  const keys = () => audit(castCharacter('deckhand.glb'), handset).map((finding) => finding.key);
  expect(keys()).toEqual(keys());
  expect(new Set(keys()).size).toBe(keys().length);
});

it('the remedies that the findings offer take away what stops hand-off, one after the other', () => {
  let character = castCharacter('deckhand.glb');
  for (let i = 0; i < 12; i++) {
    const next = audit(character, handset).find(
      (finding) => finding.gravity === 'stops' && finding.remedies.length > 0,
    );
    if (!next) break;
    const remedy = remedyById(next.remedies[0].id)!;
    const params = remedy.params.validateSync(next.remedies[0].params) as Record<string, unknown>;
    const { rows, effects, after } = previewRemedy(remedy, character, params, handset);
    expect(rows.length).toBeGreaterThan(0);
    expect(effects.outside).toEqual([]);
    character = after;
    expect(brokenInvariants(character)).toEqual([]);
    expect(audit(character, handset).map((finding) => finding.key)).not.toContain(next.key);
  }
  expect(
    audit(character, handset)
      .filter((finding) => finding.gravity === 'stops')
      .map((finding) => finding.message),
  ).toEqual([]);
});

it('the clean Deckhand moves onto the Quay skeleton without any difference, the delivered one within what the brief allows once it is mended', async () => {
  const clean = castCharacter('deckhand-clean.glb');
  const out = remap(clean, QUAY, suggest(skeletonOf(clean), QUAY), { limit: 4 });
  expect(out.report.vertices).toMatchObject({ changed: 0, trimmed: 0, unweighted: 0 });
  expect(prove(out, trialPoses(clean)).max).toBeLessThan(1e-9);

  let mended = castCharacter('deckhand.glb');
  for (const finding of audit(mended, handset).filter(
    (otherFinding) => otherFinding.gravity === 'stops' && otherFinding.remedies[0],
  )) {
    const remedy = remedyById(finding.remedies[0].id)!;
    try {
      mended = remedy.apply(
        mended,
        remedy.params.validateSync(finding.remedies[0].params) as Record<string, unknown>,
        handset,
      );
    } catch {
      /* an earlier remedy has mended it already */
    }
  }
  const crosswalk = suggest(skeletonOf(mended), QUAY);
  const moved = remap(mended, QUAY, crosswalk, { limit: 4, skins: handset.skins });
  expect(moved.report.weight.after).toBeCloseTo(moved.report.weight.before, 2);
  const proof = prove(moved, posesFor(mended, crosswalk));
  expect(proof.poses.length).toBeGreaterThan(28);
  expect(proof.max).toBeLessThan(handset.proofTolerance);
  expect(await validate(writeGlb(moved.character).bytes)).toEqual([]);
  // Each skin lists only what it needs, so that the handset's bone budget holds.
  expect(audit(moved.character, handset).filter((finding) => finding.check === 'bone-budget')).toEqual([]);
  expect(brokenInvariants(moved.character)).toEqual([]);
  // The coat's bones came along, the controls and ends did not, and the lantern still hangs by the hand.
  const names = moved.character.nodes.map((node) => node.name);
  expect(names).toEqual(
    expect.arrayContaining(['L_coat_a_1', 'R_coat_e_3', 'arm_upper_lt', 'storm lantern']),
  );
  expect(names).not.toEqual(expect.arrayContaining(['L_hand_ctrl']));
});

it('a suggestion finds the same bones by shape alone when the names are nonsense, and by names alone in another stance', () => {
  const character = castCharacter('deckhand-clean.glb');
  const source = skeletonOf(character);
  const right = (rules: ReturnType<typeof suggest>) =>
    rules.filter(
      (rule) => rule.kind === 'carry' && QUAY.bones[rule.target].name === source.bones[rule.source].name,
    ).length;
  const nonsense = {
    ...source,
    bones: source.bones.map((bone, i) => ({ ...bone, name: `x${(i * 7919) % 1009}q` })),
  };
  expect(right(suggest(nonsense, QUAY))).toBeGreaterThanOrEqual(0.9 * QUAY.bones.length);
  // Arms hanging down: every place below the shoulders is another one.
  const stance = {
    ...source,
    bones: source.bones.map((bone) =>
      /^(arm|wrist|hand|thumb|point|long|ring|small)/.test(bone.name)
        ? {
            ...bone,
            place: [
              Math.sign(bone.place[0]) * 0.2,
              1.44 - (Math.abs(bone.place[0]) - 0.18),
              bone.place[2],
            ] as const,
          }
        : bone,
    ),
  };
  expect(right(suggest(stance, QUAY))).toBe(QUAY.bones.length);
});

it('locked pairs survive a new suggestion', () => {
  const source = skeletonOf(castCharacter('deckhand-clean.glb'));
  const first = suggest(source, QUAY);
  const spine = source.bones.findIndex((bone) => bone.name === 'spine_3');
  const locked = first.map((rule) =>
    rule.source === spine ? { ...rule, kind: 'keep' as const, target: -1, locked: true } : rule,
  );
  const again = suggest(source, QUAY, locked);
  expect(again[spine]).toMatchObject({ kind: 'keep', locked: true });
});
