import { wordTable } from '../../character/words';
import type { Element } from '@xmldom/xmldom';
import { composeMatrix, cross, normalise, quatAbout, subtract, times } from '../../geometry/matrix';
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
export function readTransforms(doc: ColladaDocument, e: Element): Transform[] {
  return kids(e).flatMap((c): Transform[] => {
    const kind = c.localName as TransformKind;
    const size = SIZES.get(kind);
    if (size === undefined) return [];
    const numbers = doc.exactly(c, size);
    return [
      {
        kind,
        sid: c.getAttribute('sid') ?? '',
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
  for (const t of transforms) out = times(out, matrixOf(t));
  return out;
}

const rad = (deg: number) => (deg * Math.PI) / 180;

function matrixOf({ kind, values: v }: Transform): Float64Array {
  const none = [0, 0, 0, 1];
  switch (kind) {
    case 'matrix':
      return Float64Array.from(v);
    case 'translate':
      return composeMatrix(v, none, [1, 1, 1]);
    case 'rotate':
      return composeMatrix(
        [0, 0, 0],
        Math.hypot(v[0], v[1], v[2]) > 1e-12 ? quatAbout(normalise(v.slice(0, 3)), rad(v[3])) : none,
        [1, 1, 1],
      );
    case 'scale':
      return composeMatrix([0, 0, 0], none, v);
    case 'lookat': {
      const eye = v.slice(0, 3);
      const back = normalise(subtract(eye, v.slice(3, 6)));
      const right = normalise(cross(v.slice(6, 9), back));
      const up = cross(back, right);
      return Float64Array.from([...right, 0, ...up, 0, ...back, 0, ...eye, 1]);
    }
    case 'skew': {
      // Angle, axis that is turned, axis of translation (COLLADA 1.4.1, <skew>, after RenderMan).
      const [a, b] = [normalise(v.slice(1, 4)), normalise(v.slice(4, 7))];
      const f = Math.tan(rad(v[0]));
      const out = composeMatrix([0, 0, 0], none, [1, 1, 1]);
      for (let c = 0; c < 3; c++) for (let r = 0; r < 3; r++) out[c * 4 + r] += f * b[r] * a[c];
      return out;
    }
  }
}
