/** What a brief says of polygons and points. */
import { type InferType, number, object } from 'yup';
import type { BriefBase } from '../../contracts/brief';
import { setting } from '../../contracts/setting';

/** What a brief asks of the surface. */
export const SURFACE = object({
  /** Points closer than this are one point, metres. */
  coincident: number()
    .min(0)
    .required()
    .meta(
      setting('Points are one within', 'length', 'least', 'Points of a mesh that lie nearer are one point.'),
    ),
  /** Least share of quads, 0 … 1. */
  quadShare: number()
    .min(0)
    .max(1)
    .required()
    .meta(
      setting('Least share of quads', 'share', 'least', 'So much of every mesh is polygons of four corners.'),
    ),
  /** Within this distance of a bending joint a polygon that is no quad matters, metres. */
  nearJoint: number()
    .min(0)
    .required()
    .meta(
      setting(
        'Near a joint is within',
        'length',
        'is',
        'A polygon that is no quad matters so near a joint that bends.',
      ),
    ),
})
  .required()
  .meta({ label: 'Polygons and points' });

export type SurfaceBrief = BriefBase & { readonly surface: InferType<typeof SURFACE> };
