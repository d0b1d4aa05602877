/** Figures in motion: clean bodies pass and that says something; planted faults are found at their joints, and nothing else. */
import type { Character } from '@/core/character/model';
import { underSimilarity } from '@/core/character/similarity';
import { type JointMotion, jointMotionsOf, turnsOfMotion } from '@/core/anatomy/joint-motions';
import { restPlace, restWorld } from '@/core/character/hierarchy';
import { meaningOf } from '@/core/anatomy/bones';
import {
  decompose,
  dot,
  quatAbout,
  quatConjugate,
  quatMultiply,
  quatRotate,
  subtract,
} from '@/core/geometry/matrix';
import { twinOf } from '@/core/anatomy/twins';
import { skeletonOf } from '@/core/anatomy/skeleton';
import { audit, checksInMotion } from '@/core/house/audit';
import { briefById } from '@/core/house/briefs';
import { remedyById } from '@/core/house/registry';
import { posedWorld } from '@/core/motion/pose';
import { ownPosedWorld } from '@/core/motion/hand-pose';
import { USUAL_LIMITS } from '@/core/contracts/trials';
import { trialsOf } from '@/core/rooms/trials/findings';
import { tryInPieces } from '@/core/rooms/trials/in-pieces';
import { isWorse, rowChanges, seenChanges, trialCurve, trialRows } from '@/core/rooms/trials/rows';
import { readGltf } from '@/core/formats/gltf/read';
import { entriesOf, influencesFrom } from '@/core/geometry/influences';
import { positionsOf } from '@/core/character/model';
import { invertedTriangles } from '@/core/rooms/trials/figures';
import type { LocalSurface } from '@/core/rooms/trials/joint-surface';
import { jointSurface } from '@/core/rooms/trials/sweep';
import { twistUnevenCheck } from '@/core/rooms/trials/checks/twist-uneven';
import { twistSpreadOf } from '@/core/rooms/trials/twist-spread';
import { BOX_FACES, meshFrom, tube } from './support/build';
import { castCharacter, handBytes } from './support/cast';
import { withBentPart, withJoints } from './support/changed-joints';

const brief = briefById('handset')!;
const clean = castCharacter('deckhand-clean.glb');
const node = (name: string, of = clean) => of.nodes.findIndex((one) => one.name === name);
const found = (character: Character) => audit(character, brief, { checks: checksInMotion(brief) });
const motionsOf = (name: string): JointMotion[] =>
  jointMotionsOf(clean).filter(({ bone }) => bone === node(name));

describe('motions of joints', () => {
  it('a body’s joints move as far as in life, each side like the other', () => {
    const degrees = (name: string) =>
      Object.fromEntries(motionsOf(name).map(({ motion, degrees: to }) => [motion, Math.round(to)]));
    expect(degrees('arm_lower_lt')).toEqual({ bend: 150 });
    expect(degrees('leg_lower_rt')).toEqual({ bend: 135 });
    expect(degrees('leg_upper_lt')).toMatchObject({ 'swing forward': 120, 'swing back': 30, spread: 45 });
    expect(degrees('hand_rt')).toMatchObject({ 'bend to the palm': 80, 'bend back': 70 });
    // From a T-pose an arm rises from 90° on, and its collar takes a third of that.
    const raise = motionsOf('arm_upper_lt').find(({ motion }) => motion === 'raise sideways')!;
    expect([Math.round(raise.from), raise.degrees]).toEqual([90, 180]);
    expect(raise.joints.map(({ bone, share }) => [clean.nodes[bone].name, share.toFixed(2)])).toEqual([
      ['arm_upper_lt', '0.67'],
      ['collar_lt', '0.33'],
    ]);
  });
  it('a hand that is turned takes the twist bones of its arm along, each as far as it lies, whatever hangs on what', () => {
    const [arm, twist, hand] = ['arm_lower_lt', 'wrist_twist_lt', 'hand_lt'].map((name) => node(name));
    const way = subtract(restPlace(clean.nodes, hand), restPlace(clean.nodes, arm));
    const along = dot(subtract(restPlace(clean.nodes, twist), restPlace(clean.nodes, arm)), way);
    const share = along / dot(way, way);
    expect(share).toBeGreaterThan(0.4);
    const inRow = remedyById('re-hang')!.apply(clean, { bone: hand, parent: twist }, brief);
    for (const character of [clean, inRow]) {
      const turn = jointMotionsOf(character).find(
        ({ bone, motion }) => bone === hand && motion === 'turn palm up',
      )!;
      const rest = restWorld(character.nodes);
      const posed = posedWorld(character, turnsOfMotion(turn, turn.degrees));
      const turned = [arm, twist, hand].map((bone) => {
        const [was, is] = [rest, posed].map((world) => decompose(world, bone * 16).rotation);
        const [x, y, z, w] = quatMultiply(is, quatConjugate(was));
        return (2 * Math.atan2(dot([x, y, z], turn.axis), w) * 180) / Math.PI;
      });
      expect(turned[0]).toBeCloseTo(0, 6);
      expect(turned[1]).toBeCloseTo(share * turn.degrees, 4);
      expect(turned[2]).toBeCloseTo(turn.degrees, 4);
    }
    const turn = motionsOf('hand_lt').find(({ motion }) => motion === 'turn palm up')!;
    const [driven, left] = [turn.joints, [{ bone: hand, share: 1 }]].map((joints) =>
      twistSpreadOf(clean, { ...turn, joints })!,
    );
    expect(clean.nodes[driven.node].name).toBe('oilskin coat');
    expect([driven.degrees, left.degrees]).toEqual([80, 80]);
    expect(driven.off).toBeLessThan(30);
    expect(left.off).toBeGreaterThan(60);
    for (const [i, ring] of driven.rings.entries()) {
      expect(ring.turned).toBeGreaterThan(-0.5);
      if (i > 0) expect(ring.turned).toBeGreaterThanOrEqual(driven.rings[i - 1].turned - 0.01);
    }
    expect(
      motionsOf('hand_lt')
        .filter((motion) => twistSpreadOf(clean, motion))
        .map(({ motion }) => motion),
    ).toEqual(['turn palm up', 'turn palm down']);
    const volume = (joints: JointMotion['joints']) => {
      const [turn] = motionsOf('hand_lt').filter(({ motion }) => motion === 'turn palm up');
      return trialCurve(clean, { ...turn, joints }).linear.at(-1)!;
    };
    // Left behind, the wrist would be wrung: a ring bound half to it and half to the hand keeps cos(40°) of its radius.
    expect(volume([{ bone: hand, share: 1 }])).toBeLessThan(0.75);
    expect(
      volume(
        jointMotionsOf(clean).find(({ bone, motion }) => bone === hand && motion === 'turn palm up')!.joints,
      ),
    ).toBeGreaterThan(0.85);
  });
  it('bend where joints bend: the foot of a bent knee goes back, the hand of a bent elbow forward, an arm that rises up', () => {
    const moved = (name: string, motion: string, what: string) => {
      const one = motionsOf(name).find((candidate) => candidate.motion === motion)!;
      const [rest, posed] = [one.from, one.degrees].map((at) =>
        posedWorld(clean, turnsOfMotion(one, at)).subarray(node(what) * 16 + 12, node(what) * 16 + 15),
      );
      return [0, 1, 2].map((k) => posed[k] - rest[k]);
    };
    for (const side of ['lt', 'rt']) {
      expect(moved(`leg_lower_${side}`, 'bend', `foot_${side}`)[2]).toBeLessThan(-0.2);
      expect(moved(`arm_lower_${side}`, 'bend', `hand_${side}`)[2]).toBeGreaterThan(0.05);
      expect(moved(`arm_upper_${side}`, 'raise sideways', `hand_${side}`)[1]).toBeGreaterThan(0.3);
      expect(moved(`arm_upper_${side}`, 'lower to the side', `hand_${side}`)[1]).toBeLessThan(-0.3);
      expect(moved(`leg_upper_${side}`, 'swing forward', `foot_${side}`)[2]).toBeGreaterThan(0.3);
      // Every finger goes to the palm, which looks down here, and not to its neighbour.
      for (const [finger, joint] of [
        ['point', 1],
        ['point', 2],
        ['long', 1],
        ['ring', 1],
        ['small', 1],
        ['small', 2],
      ] as const) {
        const [x, y, z] = moved(`${finger}_${joint}_${side}`, 'bend', `${finger}_${joint + 1}_${side}`);
        expect([finger, joint, y < -0.008, Math.abs(z) < 0.5 * Math.abs(y), Math.abs(x) > 0]).toEqual([
          finger,
          joint,
          true,
          true,
          true,
        ]);
      }
    }
    expect(moved('spine_1', 'bend forward', 'head')[2]).toBeGreaterThan(0.1);
  });
  it('a knee that stands pressed back bends as knees do all the same', () => {
    const knee = node('leg_lower_lt');
    const foot = (character: Character, degrees: number) => {
      const bend = jointMotionsOf(character).find(({ bone, motion }) => bone === knee && motion === 'bend')!;
      return posedWorld(character, turnsOfMotion(bend, degrees))[node('foot_lt') * 16 + 14];
    };
    const own = decompose(restWorld(clean.nodes), knee * 16).rotation;
    const bend = jointMotionsOf(clean).find(({ bone }) => bone === knee)!;
    // Eight degrees the way that it bends; as many the other way.
    const back = quatAbout(quatRotate(quatConjugate(own), bend.axis), (-2 * bend.from * Math.PI) / 180);
    const nodes = clean.nodes.map((one, i) =>
      i === knee ? { ...one, rotation: quatMultiply(one.rotation, back) } : one,
    );
    const pressed = { ...clean, nodes };
    const made = jointMotionsOf(pressed).find(({ bone, motion }) => bone === knee && motion === 'bend')!;
    expect(made.from).toBeCloseTo(-bend.from, 0);
    expect(foot(pressed, 120) - foot(pressed, made.from)).toBeLessThan(-0.2);
    expect(Math.abs(foot(pressed, 120) - foot(clean, 120))).toBeLessThan(0.01);
  });
  it('every bone that moves flesh has some', () => {
    const turned = new Set(jointMotionsOf(clean).flatMap(({ joints }) => joints.map(({ bone }) => bone)));
    const bound = new Set(clean.skins.flatMap(({ joints }) => joints));
    const missing = [...bound].filter((bone) => !turned.has(bone)).map((bone) => clean.nodes[bone].name);
    expect(missing).toEqual([]);
  });
});

describe('a clean figure', () => {
  it('has nothing open, after every joint was turned', () => {
    expect(found(clean)).toEqual([]);
    const trials = trialsOf(clean, USUAL_LIMITS);
    expect(trials.length).toBeGreaterThan(200);
    // It says something: joints lose volume, and most have it told.
    const volumes = trials.flatMap(({ samples }) => samples.flatMap(({ volume }) => volume ?? []));
    expect(volumes.length).toBeGreaterThan(400);
    expect(Math.min(...volumes)).toBeLessThan(0.7);
  });
  it('is not said of what could not be tried: a skeleton by itself, a hand whose bones hang side by side', () => {
    const hand = readGltf([{ name: 'left.glb', bytes: handBytes('left') }]);
    for (const [character, why] of [
      [castCharacter('quay-skeleton.glb'), /no mesh is bound/],
      [hand, /hang side by side/],
    ] as const) {
      const all = found(character);
      expect(all.map(({ check, gravity }) => [check, gravity])).toEqual([['not-tried', 'note']]);
      expect(all[0].message).toMatch(why);
    }
  });
  it('keeps both sides alike', () => {
    const skeleton = skeletonOf(clean);
    const twin = new Map(
      skeleton.bones.map((bone, i) => [
        bone.node,
        twinOf(skeleton, i) < 0 ? -1 : skeleton.bones[twinOf(skeleton, i)].node,
      ]),
    );
    const rows = trialRows(clean, USUAL_LIMITS).filter(
      ({ node: bone }) => meaningOf(clean, bone).kind === 'bone',
    );
    const known = new Map(rows.map((row) => [`${row.node} ${row.motion}`, row]));
    let compared = 0;
    for (const row of rows) {
      const other = known.get(`${twin.get(row.node)} ${row.motion}`);
      if (!other || row.volume === null || other.volume === null) continue;
      compared++;
      expect([row.bone, row.motion, Math.abs(row.volume - other.volume) < 0.03]).toEqual([
        row.bone,
        row.motion,
        true,
      ]);
      expect(Math.abs(row.stretch - other.stretch)).toBeLessThan(0.12);
    }
    expect(compared).toBeGreaterThan(60);
  });
  it('has the same figures wherever it stands and however large it is', () => {
    const moved = underSimilarity(clean, {
      scale: 2.5,
      rotation: [0, Math.SQRT1_2, 0, Math.SQRT1_2],
      translation: [3, 0, -1],
    });
    const before = trialRows(clean, USUAL_LIMITS);
    const after = trialRows(moved, USUAL_LIMITS);
    expect(after.map(({ bone, motion }) => `${bone} ${motion}`)).toEqual(
      before.map(({ bone, motion }) => `${bone} ${motion}`),
    );
    after.forEach((row, i) => {
      if (row.volume !== null) expect(Math.abs(row.volume - before[i].volume!)).toBeLessThan(0.01);
      expect(Math.abs(row.through / 2.5 - before[i].through)).toBeLessThan(0.01);
    });
  });
  it('keeps more where an engine skins by dual quaternions', () => {
    const twist = motionsOf('hand_lt').find(({ motion }) => motion === 'turn palm up')!;
    // The wrist alone: with its twist bones there is little left to lose.
    const { linear, dual, degrees } = trialCurve(clean, {
      ...twist,
      joints: [{ bone: twist.bone, share: 1 }],
    });
    expect([linear[0], dual[0]].map((share) => share!.toFixed(4))).toEqual(['1.0000', '1.0000']);
    expect(degrees[degrees.length - 1]).toBe(80);
    expect(dual[dual.length - 1]! - linear[linear.length - 1]!).toBeGreaterThan(0.1);
  });
});

describe('what is measured about a joint', () => {
  it('is the limb, and not a button beside it that wholly goes with one bone', () => {
    const limb = tube(16, 41);
    const [mesh] = limb.meshes;
    const corner = (k: number) => [0.95 + 0.05 * (k & 1), 0.11 + 0.02 * ((k >> 1) & 1), 0.02 * (k >> 2)];
    const points = [...positionsOf(mesh)].reduce<number[][]>((rows, x, i) => {
      if (i % 3 === 0) rows.push([]);
      rows[rows.length - 1].push(x);
      return rows;
    }, []);
    const faces = Array.from({ length: mesh.polygonOffsets.length - 1 }, (_, i) => [
      ...mesh.corners.subarray(mesh.polygonOffsets[i], mesh.polygonOffsets[i + 1]),
    ]);
    const rows = Array.from({ length: mesh.vertexCount }, (_, vertex) =>
      entriesOf(mesh.influences!, vertex).map(({ joint, weight }) => [joint, weight] as const),
    );
    const button = meshFrom(
      [...points, ...Array.from({ length: 8 }, (_, k) => corner(k))],
      [...faces, ...BOX_FACES.map((face) => face.map((k) => k + mesh.vertexCount))],
      influencesFrom([...rows, ...Array.from({ length: 8 }, () => [[0, 1]] as const)]),
    );
    const [plain, decorated] = [limb, { ...limb, meshes: [button] }].map((one) => jointSurface(one, 1));
    expect(plain.surfaces[0].region!.triangles.length).toBeGreaterThan(50);
    expect(decorated.surfaces[0].region!.triangles).toHaveLength(plain.surfaces[0].region!.triangles.length);
  });
  it('a face that is turned over among its neighbours is told, a fold that is there at rest is not', () => {
    // Six triangles round a point: pulled over its border in the pose, two of them turn.
    const ring = [0, 1, 2, 3, 4, 5].map((k) => [Math.cos((k * Math.PI) / 3), Math.sin((k * Math.PI) / 3), 0]);
    const triangles = Uint32Array.from([0, 1, 2, 3, 4, 5].flatMap((k) => [0, k + 1, ((k + 1) % 6) + 1]));
    const surfaceOf = (middle: readonly number[]) =>
      ({ rest: Float32Array.from([middle, ...ring].flat()), triangles }) as unknown as LocalSurface;
    const posed = (middle: readonly number[]) => Float32Array.from([middle, ...ring].flat());
    const turned = (rest: readonly number[], pose: readonly number[]) =>
      invertedTriangles(surfaceOf(rest), posed(pose)).reduce((sum, one) => sum + one, 0);
    expect(turned([0, 0, 0], [0.2, 0.1, 0])).toBe(0);
    expect(turned([0, 0, 0], [1.3, 0, 0])).toBeGreaterThan(0);
    expect(turned([1.3, 0, 0], [1.3, 0, 0])).toBe(0);
  });
});

describe('a fault that is planted', () => {
  const told = (character: Character) => [
    ...new Set(found(character).map(({ check, subject }) => `${check} ${subject.name}`)),
  ];

  it('a joint that was missed: the forearm’s flesh went to the upper arm', () => {
    let missed = clean;
    for (const mesh of ['body', 'oilskin coat'])
      missed = withJoints(missed, mesh, (bone) =>
        ['arm_lower_lt', 'wrist_twist_lt'].includes(clean.nodes[bone].name) ? node('arm_upper_lt') : bone,
      );
    const all = told(missed);
    expect(all).toContain('does-not-follow arm_lower_lt');
    expect(all.every((one) => /(arm_lower|hand|arm_upper|wrist_twist)_lt$/.test(one))).toBe(true);
    const finding = found(missed).find(({ check }) => check === 'does-not-follow')!;
    expect(finding.pose!.turns.map(([bone]) => clean.nodes[bone].name)).toEqual(['arm_lower_lt']);
  });
  it('what is offered for a missed joint and for an elbow that collapses mends them', () => {
    let missed = clean;
    for (const mesh of ['body', 'oilskin coat'])
      missed = withJoints(missed, mesh, (bone) =>
        ['arm_lower_lt', 'wrist_twist_lt'].includes(clean.nodes[bone].name) ? node('arm_upper_lt') : bone,
      );
    const soft = remedyById('set-band')!.apply(clean, { bone: node('arm_lower_rt'), width: 0.35 }, brief);
    const [collapsed] = found(soft);
    expect([collapsed.check, collapsed.gravity, collapsed.subject.name]).toEqual([
      'volume-lost',
      'stops',
      'arm_lower_rt',
    ]);
    for (const faulty of [missed, soft]) {
      let character = faulty;
      const steps: string[] = [];
      for (let step = 0; step < 8; step++) {
        const finding = found(character).find(({ remedies }) => remedies.length > 0);
        if (!finding) break;
        const [{ id, params }] = finding.remedies;
        const remedy = remedyById(id)!;
        character = remedy.apply(character, remedy.params.cast(params) as Record<string, unknown>, brief);
        steps.push(`${id} for ${finding.check} of ${finding.subject.name}`);
      }
      expect([steps, found(character).map(({ message }) => message)]).toEqual([steps, []]);
      expect(steps.length).toBeLessThan(6);
    }
  });
  it('an elbow that is much softer still, so that no part of it near the joint stays or goes wholly', () => {
    const soft = remedyById('set-band')!.apply(clean, { bone: node('arm_lower_rt'), width: 0.6 }, brief);
    const elbow = found(soft).find(({ subject }) => subject.name === 'arm_lower_rt');
    expect([elbow?.check, elbow?.gravity]).toEqual(['volume-lost', 'stops']);
  });
  it('an arm whose skin leaves its twist bone out: told at the hand, and not where the arm has no such bone', () => {
    const wrung = withJoints(clean, 'oilskin coat', (bone) =>
      clean.nodes[bone].name === 'wrist_twist_lt' ? node('arm_lower_lt') : bone,
    );
    expect(told(wrung)).toContain('twist-uneven hand_lt');
    const [finding] = found(wrung).filter(({ check }) => check === 'twist-uneven');
    expect(finding).toMatchObject({ gravity: 'worth', expected: 45 });
    expect(Number(finding.measured)).toBeGreaterThan(60);
    expect(finding.message).toMatch(/“oilskin coat” is up to \d+° off an even twist along the arm/);
    expect(finding.pose!.turns.map(([bone]) => clean.nodes[bone].name).sort()).toEqual([
      'hand_lt',
      'wrist_twist_lt',
    ]);
    const trials = { ...USUAL_LIMITS, twist: 90 };
    expect(twistUnevenCheck.run(wrung, { ...brief, trials })).toEqual([]);
    expect(twistUnevenCheck.run(clean, { ...brief, trials: { ...trials, twist: 20 } })).toHaveLength(2);
    // A guard that goes as one with the arm is no skin that could be spread.
    const guard = withJoints(clean, 'oilskin coat', () => node('arm_lower_lt'));
    expect(
      twistSpreadOf(
        guard,
        motionsOf('hand_lt').find(({ motion }) => motion === 'turn palm up')!,
      )!.node,
    ).toBe(node('body'));
    const stoker = castCharacter('stoker.dae');
    expect(twistUnevenCheck.run(stoker, { ...brief, trials: { ...trials, twist: 1 } })).toEqual([]);
  });
  it('a finger that its neighbour pulls', () => {
    const pulled = withJoints(clean, 'body', (bone) =>
      clean.nodes[bone].name === 'ring_2_rt' ? node('long_2_rt') : bone,
    );
    const all = told(pulled);
    expect(all.length).toBeGreaterThan(0);
    expect(all.every((one) => /(ring|long)_\d_rt$/.test(one))).toBe(true);
  });
  it('two points that go with the other leg', () => {
    const body = clean.meshes[clean.nodes[node('body')].mesh];
    const { joints } = clean.skins[clean.nodes[node('body')].skin];
    const { offsets, joint, weight } = body.influences!;
    const ofShin = Array.from({ length: body.vertexCount }, (_, vertex) => vertex).filter((vertex) =>
      joint
        .subarray(offsets[vertex], offsets[vertex + 1])
        .some((slot, k) => joints[slot] === node('leg_lower_lt') && weight[offsets[vertex] + k] > 0.95),
    );
    const some = new Set(ofShin.slice(0, 2));
    const crossed = withJoints(clean, 'body', (bone, vertex) =>
      some.has(vertex) ? node('leg_upper_rt') : bone,
    );
    const all = found(crossed).filter(({ check }) => check === 'flies-off');
    expect(all.length).toBeGreaterThan(0);
    expect(all.every(({ subject }) => /^leg_(upper|lower)_/.test(subject.name))).toBe(true);
    // What they do else to these joints comes of that, and is not told again.
    const others = found(crossed).filter(({ check }) => check !== 'flies-off');
    expect(others).toEqual([]);
    const polygons = all[0].elements.filter(({ kind }) => kind === 'polygon');
    expect(polygons.reduce((sum, { ids }) => sum + ids.length, 0)).toBeLessThan(24);
  });
  it('a joint at which points fly off is told of that alone, though its skin is stretched as well', () => {
    const delivered = castCharacter('deckhand.glb');
    const at = (limits: typeof USUAL_LIMITS, ids: readonly string[]) =>
      audit(delivered, { ...brief, trials: limits }, { checks: checksInMotion(brief) }).flatMap(
        ({ check, subject }) => (ids.includes(check) ? [subject.name] : []),
      );
    const others = ['volume-lost', 'overstretched', 'turned-inside-out'];
    const torn = at(USUAL_LIMITS, ['flies-off']);
    const isTorn = (name: string) => torn.includes(name);
    // Where flying off is allowed the same joints are told of what else they do.
    expect(at({ ...USUAL_LIMITS, torn: 99 }, others).filter(isTorn).length).toBeGreaterThan(2);
    expect(at(USUAL_LIMITS, others).filter(isTorn)).toEqual([]);
  });
  it('a knee that folds: its flesh parts between two neighbours, with nothing shared', () => {
    const body = clean.meshes[clean.nodes[node('body')].mesh];
    const { joints } = clean.skins[clean.nodes[node('body')].skin];
    const { offsets, joint, weight } = body.influences!;
    const share = new Float32Array(body.vertexCount);
    for (let vertex = 0; vertex < body.vertexCount; vertex++)
      for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++)
        if (joints[joint[k]] === node('leg_lower_lt')) share[vertex] += weight[k];
    const hard = withJoints(clean, 'body', (bone, vertex) => {
      if (bone !== node('leg_lower_lt') && bone !== node('leg_upper_lt')) return bone;
      return share[vertex] > 0.5 ? node('leg_lower_lt') : node('leg_upper_lt');
    });
    const all = found(hard);
    expect(all.map(({ subject }) => subject.name)).toContain('leg_lower_lt');
    // Flesh of the ankle went partly with the shin, and in a crouch goes with the thigh now.
    expect(
      all
        .map(({ subject, message }) => `${subject.name}: ${message}`)
        .filter((told) => !/^(leg_(lower|upper)|foot)_lt:/.test(told)),
    ).toEqual([]);
    const finding = all.find(({ subject }) => subject.name === 'leg_lower_lt')!;
    expect(finding.pose!.words).toMatch(/^bend, \d+°$/);
  });
  it('a rigid part that two bones pull, and the remedy that is offered mends it', () => {
    const bent = withBentPart(clean);
    const all = found(bent).filter(({ check }) => check === 'rigid-bends');
    expect(all).toHaveLength(1);
    expect(all[0].pose).toBeDefined();
    const [{ id, params }] = all[0].remedies;
    const remedy = remedyById(id)!;
    const mended = remedy.apply(bent, remedy.params.cast(params) as Record<string, unknown>, brief);
    expect(found(mended)).toEqual([]);
  });
  it('a lamp that goes through the body when the hand bends is told of the Stoker', () => {
    const stoker = castCharacter('stoker.dae');
    const clashes = found(stoker).filter(({ check }) => check === 'goes-through');
    expect(
      clashes.map(({ subject, message }) => [
        subject.name,
        /“hand lamp” goes .* into “stoker body”/.test(message),
      ]),
    ).toEqual([['RightHand', true]]);
  });
});

it('a lantern that goes through the coat is moved out by what is offered', () => {
  const lantern = node('storm lantern');
  let character: Character = {
    ...clean,
    nodes: clean.nodes.map((one, i) =>
      i === lantern ? { ...one, translation: [-0.05, 0, 0] as const } : one,
    ),
  };
  const clashes = () => found(character).filter(({ check }) => check === 'goes-through');
  expect(clashes().map(({ subject }) => subject.name)).toContain('hand_rt');
  expect(clashes().some(({ message }) => /“storm lantern” goes .* into “oilskin coat”/.test(message))).toBe(
    true,
  );
  for (let step = 0; step < 4 && clashes().length > 0; step++) {
    const [{ id, params }] = clashes()[0].remedies;
    const remedy = remedyById(id)!;
    character = remedy.apply(character, remedy.params.cast(params) as Record<string, unknown>, brief);
  }
  expect(found(character)).toEqual([]);
});

it('a finding stands in the very pose that it was found in', () => {
  const stoker = castCharacter('stoker.dae');
  const finding = found(stoker).find(({ check }) => check === 'goes-through')!;
  const posed = ownPosedWorld(stoker, new Map(finding.pose!.turns));
  const motion = jointMotionsOf(stoker).find(
    ({ bone, motion: name }) => bone === finding.subject.index && finding.pose!.words.startsWith(name),
  )!;
  const wanted = posedWorld(stoker, turnsOfMotion(motion, motion.degrees));
  expect(Math.max(...posed.map((x, i) => Math.abs(x - wanted[i])))).toBeLessThan(1e-6);
});

it('an audit asks of a figure in motion only where it is told to, and a brief without limits asks nothing', () => {
  const stoker = castCharacter('stoker.dae');
  const inTrials = (findings: readonly { room: string }[]) =>
    findings.filter(({ room }) => room === 'trials').length;
  expect(inTrials(audit(stoker, brief))).toBe(0);
  expect(inTrials(audit(stoker, brief, { isMoved: true }))).toBeGreaterThan(3);
  expect(inTrials(audit(stoker, { ...brief, trials: null }, { isMoved: true }))).toBe(0);
  // A stricter brief finds more, one that turns joints less finds less.
  const strict = audit(
    clean,
    { ...brief, trials: { ...USUAL_LIMITS, volume: 0.75 } },
    { checks: checksInMotion(brief) },
  );
  expect(strict.filter(({ check }) => check === 'volume-lost').length).toBeGreaterThan(4);
  const gentle = { ...USUAL_LIMITS, volume: 0.75, reach: 0.4 };
  expect(audit(clean, { ...brief, trials: gentle }, { checks: checksInMotion(brief) })).toEqual([]);
});

it('made in pieces they are the same, told as they go on, and stopped when that is asked', async () => {
  const one = { ...castCharacter('stoker.dae') };
  const shares: number[] = [];
  const isDone = await tryInPieces(one, USUAL_LIMITS, {
    told: (share) => shares.push(share),
    isStopped: () => false,
  });
  expect(isDone).toBe(true);
  expect(shares).toEqual([...shares].sort((a, b) => a - b));
  expect(trialRows(one, USUAL_LIMITS)).toEqual(trialRows(castCharacter('stoker.dae'), USUAL_LIMITS));
  const another = { ...castCharacter('stoker.dae') };
  expect(await tryInPieces(another, USUAL_LIMITS, { told: () => {}, isStopped: () => true })).toBe(false);
});

it('what differs from another state is told with the worst first', () => {
  const pulled = withJoints(clean, 'body', (bone) =>
    clean.nodes[bone].name === 'ring_2_rt' ? node('long_2_rt') : bone,
  );
  const changes = rowChanges(trialRows(clean, USUAL_LIMITS), trialRows(pulled, USUAL_LIMITS), (bone) => bone);
  expect(changes[0].after.bone).toMatch(/^(ring|long)_\d_rt$/);
  const others = changes.filter(({ after }) => !/_rt$/.test(after.bone));
  expect(others.length).toBeGreaterThan(100);
  expect(others.every(({ volume, stretch }) => Math.abs(volume ?? 0) < 1e-9 && stretch === 0)).toBe(true);
  const seen = seenChanges(changes);
  expect(seen.length).toBeGreaterThan(0);
  expect(seen.some(isWorse)).toBe(true);
  expect(seen.every(({ after }) => /_rt$/.test(after.bone))).toBe(true);
});
