import { wordTable } from '../../character/words';
import type { Element } from '@xmldom/xmldom';
import { composeMatrix, cross, normalise, quatAbout, subtract, times } from '../../geometry/matrix';
import { type TurnOrder, turnOrderOf } from '../../geometry/turn-order';
import { type ColladaDocument, kids } from './document';

export type TransformKind = 'matrix' | 'translate' | 'rotate' | 'scale' | 'lookat' | 'skew';

/** One transform of a node as it stands in the file; a matrix column-major, angles in degrees. */
export interface Transform {
  readonly kind: TransformKind;
  readonly sid: string;
  readonly values: readonly number[];
}

const SIZES = wordTable<number>({
  matrix: 16,
  translate: 3,
  rotate: 4,
  scale: 3,
  lookat: 9,
  skew: 7,
});

/** The transforms of a <node>, in the order in which they multiply. */
export function readTransforms(doc: ColladaDocument, element: Element): Transform[] {
  return kids(element).flatMap((kid): Transform[] => {
    const kind = kid.localName as TransformKind;
    const size = SIZES.get(kind);
    if (size === undefined) return [];
    const numbers = doc.exactly(kid, size);
    return [
      {
        kind,
        sid: kid.getAttribute('sid') ?? '',
        values:
          kind === 'matrix'
            ? Array.from({ length: 16 }, (_, i) => numbers[(i % 4) * 4 + Math.floor(i / 4)])
            : numbers,
      },
    ];
  });
}

/** The product of a node's transforms: 16, column-major. */
export function localMatrix(transforms: readonly Transform[]): Float64Array {
  let out = composeMatrix([0, 0, 0], [0, 0, 0, 1], [1, 1, 1]);
  for (const transform of transforms) out = times(out, matrixOf(transform));
  return out;
}

const AXIS_LETTERS = ['x', 'y', 'z'];

/** The order in which a node turns about its three axes; undefined unless it turns about each of them once. */
export function orderOfTurns(transforms: readonly Transform[]): TurnOrder | undefined {
  const turns = transforms.filter(({ kind }) => kind === 'rotate');
  // Some tools turn a joint's rest and its motion one after the other; then neither is its order alone.
  const letters = turns.map(({ values }) => {
    const way = values.slice(0, 3).map(Math.abs);
    return AXIS_LETTERS[
      way.findIndex((share, axis) => share === 1 && way.every((x, k) => k === axis || x === 0))
    ];
  });
  return turnOrderOf(letters);
}

const rad = (deg: number) => (deg * Math.PI) / 180;

function matrixOf({ kind, values }: Transform): Float64Array {
  const none = [0, 0, 0, 1];
  switch (kind) {
    case 'matrix':
      return Float64Array.from(values);
    case 'translate':
      return composeMatrix(values, none, [1, 1, 1]);
    case 'rotate':
      return composeMatrix(
        [0, 0, 0],
        Math.hypot(values[0], values[1], values[2]) > 1e-12
          ? quatAbout(normalise(values.slice(0, 3)), rad(values[3]))
          : none,
        [1, 1, 1],
      );
    case 'scale':
      return composeMatrix([0, 0, 0], none, values);
    case 'lookat': {
      const eye = values.slice(0, 3);
      const back = normalise(subtract(eye, values.slice(3, 6)));
      const right = normalise(cross(values.slice(6, 9), back));
      const up = cross(back, right);
      return Float64Array.from([...right, 0, ...up, 0, ...back, 0, ...eye, 1]);
    }
    case 'skew': {
      // Angle, axis that is turned, axis of translation (COLLADA 1.4.1, <skew>, after RenderMan).
      const [a, b] = [normalise(values.slice(1, 4)), normalise(values.slice(4, 7))];
      const shear = Math.tan(rad(values[0]));
      const out = composeMatrix([0, 0, 0], none, [1, 1, 1]);
      for (let corner = 0; corner < 3; corner++)
        for (let row = 0; row < 3; row++) out[corner * 4 + row] += shear * b[row] * a[corner];
      return out;
    }
  }
}
