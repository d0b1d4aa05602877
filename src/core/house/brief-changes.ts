/** What changed between two versions of a brief. */
import { skeletonWanted } from '../anatomy/skeletons/wanted';
import { type FormField, leavesOfForm, valueAt } from './brief-form';
import type { Brief } from './brief';
import { CHECKS } from './registry';

/** One value that is another. */
export interface BriefChange {
  readonly path: string;
  readonly label: string;
  readonly field: FormField | null;
  readonly before: unknown;
  readonly after: unknown;
}

/** All that differs, in the order of the form. */
export function briefChanges(before: Brief, after: Brief): BriefChange[] {
  const names = ['title', 'about'].map((path) => ({
    path,
    label: path === 'title' ? 'Title' : 'About',
    field: null,
  }));
  const rules = CHECKS.map(({ id, title }) => ({ path: `checks.${id}`, label: `“${title}”`, field: null }));
  const leaves = [...leavesOfForm().values()]
    .filter((leaf) => leaf.kind !== 'group')
    .map((field) => ({ path: field.path, label: field.label, field }));
  const own = { path: 'ownSkeleton', label: 'Its own skeleton', field: null };
  const all = [...names, ...leaves, own, ...rules].flatMap(({ path, label, field }) => {
    const [a, b] = [valueAt(before, path), valueAt(after, path)];
    return JSON.stringify(a) === JSON.stringify(b) ? [] : [{ path, label, field, before: a, after: b }];
  });
  // Nobody reads a list of places, or an id.
  const words = new Map([
    [own.path, skeletonWords],
    ['skeleton', wantedWords],
  ]);
  return all.map((check) => {
    const said = words.get(check.path);
    return said ? { ...check, field: null, before: said(before), after: said(after) } : check;
  });
}

const skeletonWords = ({ ownSkeleton }: Brief): string | null =>
  ownSkeleton ? `${ownSkeleton.title}, ${ownSkeleton.bones.length} bones` : null;

const wantedWords = (brief: Brief): string => skeletonWanted(brief)?.title ?? brief.skeleton;
