/**
 * The transforms of a COLLADA node: each against three.js or a closed form, and in the order in which they
 * stand.
 */
import fc from 'fast-check';
import { Matrix4, Quaternion, Vector3 } from 'three';
import { restWorld } from '@/core/character/hierarchy';
import { readCharacter } from '@/core/formats';
import { localMatrix, type Transform, type TransformKind } from '@/core/formats/collada/transform';
import { real } from './support/random';

const number = real(-3, 3);
const vector = fc.tuple(number, number, number);
const direction = vector.filter((vector) => Math.hypot(...vector) > 0.2);
const degrees = real(-80, 80);
const of = (kind: TransformKind, values: readonly number[]): Transform => ({ kind, sid: '', values });
const apart = (a: ArrayLike<number>, b: ArrayLike<number>) =>
  Math.max(...Array.from(a, (x, i) => Math.abs(x - b[i])));
const at = (m: ArrayLike<number>, values: readonly number[]): number[] =>
  new Vector3(...(values as [number, number, number]))
    .applyMatrix4(new Matrix4().fromArray(Array.from(m)))
    .toArray();

describe('each by itself', () => {
  it('translate and scale', () =>
    fc.assert(
      fc.property(vector, vector, (translation, scale) => {
        expect(
          apart(
            localMatrix([of('translate', translation)]),
            new Matrix4().makeTranslation(...translation).elements,
          ),
        ).toBe(0);
        expect(apart(localMatrix([of('scale', scale)]), new Matrix4().makeScale(...scale).elements)).toBe(0);
      }),
    ));
  it('rotate: degrees about an axis of any length', () =>
    fc.assert(
      fc.property(direction, degrees, (axis, angle) => {
        const reference = new Matrix4().makeRotationAxis(
          new Vector3(...axis).normalize(),
          (angle * Math.PI) / 180,
        );
        expect(apart(localMatrix([of('rotate', [...axis, angle])]), reference.elements)).toBeLessThan(1e-12);
      }),
    ));
  it('rotate about no axis turns nothing', () =>
    expect(apart(localMatrix([of('rotate', [0, 0, 0, 45])]), new Matrix4().elements)).toBe(0));
  it('lookat: stands at the eye and looks along −Z at the point of interest', () =>
    fc.assert(
      fc.property(vector, vector, direction, (eye, aim, up) => {
        const way = new Vector3(...aim).sub(new Vector3(...eye));
        fc.pre(way.length() > 0.2 && new Vector3().crossVectors(way, new Vector3(...up)).length() > 0.1);
        const reference = new Matrix4()
          .lookAt(new Vector3(...eye), new Vector3(...aim), new Vector3(...up))
          .setPosition(...eye);
        expect(apart(localMatrix([of('lookat', [...eye, ...aim, ...up])]), reference.elements)).toBeLessThan(
          1e-9,
        );
      }),
    ));
  it('skew: what lies along the first axis leans towards the second by the angle, what lies across stays', () =>
    fc.assert(
      fc.property(direction, direction, degrees, (a, b, angle) => {
        const along = new Vector3(...a).normalize();
        const towards = new Vector3().crossVectors(along, new Vector3(...b));
        fc.pre(towards.length() > 0.1);
        towards.normalize();
        const matrix = localMatrix([of('skew', [angle, ...along.toArray(), ...towards.toArray()])]);
        // Closed form, as RenderMan's interface defines it: the axis itself comes to lie at the angle from
        // where it lay.
        const leant = new Vector3(...(at(matrix, along.toArray()) as [number, number, number]));
        expect(
          (Math.atan2(new Vector3().crossVectors(leant, along).length(), leant.dot(along)) * 180) / Math.PI,
        ).toBeCloseTo(Math.abs(angle), 6);
        expect(apart(at(matrix, towards.toArray()), towards.toArray())).toBeLessThan(1e-9);
        const across = new Vector3().crossVectors(along, towards).toArray();
        expect(apart(at(matrix, across), across)).toBeLessThan(1e-9);
      }),
    ));
});

describe('in a file', () => {
  const nodeOf = (inside: string) =>
    readCharacter([
      {
        name: 'x.dae',
        bytes: new TextEncoder()
          .encode(`<?xml version="1.0"?><COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1"><asset><unit name="meter" meter="1"/><up_axis>Y_UP</up_axis></asset>
      <library_visual_scenes><visual_scene id="s"><node id="bone" type="JOINT">${inside}</node></visual_scene></library_visual_scenes><scene><instance_visual_scene url="#s"/></scene></COLLADA>`),
      },
    ]);
  const text = ({ kind, values }: Transform) =>
    `<${kind}>${(kind === 'matrix' ? Array.from({ length: 16 }, (_, i) => values[(i % 4) * 4 + Math.floor(i / 4)]) : values).join(' ')}</${kind}>`;
  const any = fc.oneof(
    vector.map((vector) => of('translate', vector)),
    fc.tuple(direction, degrees).map(([a, d]) => of('rotate', [...a, d])),
    fc.tuple(...[0, 1, 2].map(() => real(0.3, 2))).map((values) => of('scale', values as number[])),
    fc
      .tuple(vector, direction, degrees)
      .map(([translation, a, d]) =>
        of(
          'matrix',
          new Matrix4().compose(
            new Vector3(...translation),
            new Quaternion().setFromAxisAngle(new Vector3(...a).normalize(), d / 60),
            new Vector3(1, 2, 0.5),
          ).elements,
        ),
      ),
  );
  it('many multiply in the order in which they stand, and the same kind may come more than once', () =>
    fc.assert(
      fc.property(fc.array(any, { minLength: 1, maxLength: 6 }), (list) => {
        const reference = list.reduce(
          (matrix, transform) =>
            matrix.multiply(new Matrix4().fromArray(Array.from(localMatrix([transform])))),
          new Matrix4(),
        );
        const size = Math.max(1, ...reference.elements.map(Math.abs));
        expect(
          apart(restWorld(nodeOf(list.map(text).join('')).nodes), reference.elements) / size,
        ).toBeLessThan(1e-5);
      }),
      { numRuns: 60 },
    ));
  it.each<[string, string, RegExp]>([
    ['too few numbers', '<translate>1 2</translate>', /translate|2 numbers|wants 3/i],
    ['words', '<rotate>a b c d</rotate>', /not a finite number|no finite number/],
    ['too many', '<scale>1 1 1 1</scale>', /scale|4 numbers|wants 3/i],
  ])('%s are refused', (_, inside, sentence) => expect(() => nodeOf(inside)).toThrow(sentence));
});
