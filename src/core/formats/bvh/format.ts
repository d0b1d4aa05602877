import { defineFormat } from '../format';
import { readBvh } from './read';

/** Biovision hierarchy: a skeleton with a captured motion; only read. */
export const bvh = defineFormat({
  id: 'bvh',
  title: 'BVH motion capture',
  reads: ['.bvh'],
  sniff: (head) => head.startsWith('HIERARCHY'),
  read: readBvh,
});
