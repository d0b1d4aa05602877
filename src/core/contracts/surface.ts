/** What a brief says of polygons and points. */
import { type InferType, number, object } from 'yup';
import type { BriefBase } from './brief';
import { setting } from './setting';

/** Common practice: the loops on either side of a bend, three quarters of the limb's thickness away from it. */
export const NEAR_JOINT = 0.75;

/** Common practice: one loop at the joint and one on either side; a finger does with less. */
export const LIMB_LOOPS = 3;
export const KNUCKLE_LOOPS = 2;

/** Common practice: a face a hundred times as long as it is wide is shaded from nearly nothing. */
export const SLIVER = 0.01;

const loops = (usual: number, title: string, where: string) =>
  number()
    .integer()
    .min(0)
    .default(usual)
    .meta(
      setting(
        title,
        'count',
        'least',
        `So many loops of edges go across ${where}, as near as a polygon matters there.`,
      ),
    );

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
  /** Points on both sides are twins within this distance, metres; null where left and right may differ. */
  twins: number()
    .min(0)
    .nullable()
    .default(null)
    .meta(
      setting(
        'Twins lie within',
        'length',
        'most',
        'Every point of the body has its mirror image on the other side, so near.',
      ),
    ),
  /** Faces are at least so wide, as a share of their length; 0 where it does not matter. */
  sliverWidth: number()
    .min(0)
    .default(SLIVER)
    .meta(
      setting(
        'Least width of a face',
        'share',
        'least',
        'Every face is at least so wide, as a share of its length.',
      ),
    ),
  /** Loops of edges that go across a limb at a joint that bends, so near it; 0 where it does not matter. */
  loopsAtLimbs: loops(LIMB_LOOPS, 'Loops across a limb’s joint', 'an elbow, wrist, knee or ankle'),
  loopsAtKnuckles: loops(KNUCKLE_LOOPS, 'Loops across a knuckle', 'a knuckle'),
})
  .required()
  .meta({ label: 'Polygons and points' });

export type SurfaceBrief = BriefBase & { readonly surface: InferType<typeof SURFACE> };
