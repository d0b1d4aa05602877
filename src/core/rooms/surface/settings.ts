/** What a brief says of polygons and points. */
import { type InferType, number, object } from 'yup';
import type { BriefBase } from '../../contracts/brief';

/** What a brief asks of the surface. */
export const SURFACE = object({
  /** Points closer than this are one point, metres. */
  coincident: number().min(0).required(),
  /** Least share of quads, 0 … 1. */
  quadShare: number().min(0).max(1).required(),
  /** Within this distance of a bending joint a polygon that is no quad matters, metres. */
  nearJoint: number().min(0).required(),
}).required();

export type SurfaceBrief = BriefBase & { readonly surface: InferType<typeof SURFACE> };
