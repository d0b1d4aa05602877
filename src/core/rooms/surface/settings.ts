/** What a brief says of polygons and points. */
import { type InferType, number, object } from 'yup';
import type { BriefBase } from '../../contracts/brief';
import { setting } from '../../contracts/setting';

/** Common practice: the loops on either side of a bend, three quarters of the limb's thickness away from it. */
export const NEAR_JOINT = 0.75;

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
  /** Nearer to a bending joint than this share of the limb's thickness there, a polygon that is no quad matters. */
  nearJointShare: number()
    .min(0)
    .default(NEAR_JOINT)
    .meta(
      setting(
        'Near a joint is within',
        'share',
        'is',
        'A polygon that is no quad matters so near a joint that bends: a share of the limb’s thickness there.',
      ),
    ),
})
  .required()
  .meta({ label: 'Polygons and points' });

export type SurfaceBrief = BriefBase & { readonly surface: InferType<typeof SURFACE> };
