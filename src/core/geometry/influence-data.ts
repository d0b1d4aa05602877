/**
 * Weights in compressed rows: vertex v has the entries offsets[v] … offsets[v + 1]. `joint` indexes the
 * skin's joints.
 */
export interface Influences {
  readonly offsets: Uint32Array;
  readonly joint: Uint16Array | Uint32Array;
  readonly weight: Float32Array;
}
