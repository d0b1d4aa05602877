import { create } from 'zustand';
import type { GatherOf } from '../stage/tools/gather';

/** What the box gathers: a setting of that tool alone. */
export const useBox = create<{ readonly of: GatherOf }>(() => ({ of: 'bones' }));
