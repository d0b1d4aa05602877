/** What changed between two versions of a brief. */
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
    .filter((f) => f.kind !== 'group')
    .map((field) => ({ path: field.path, label: field.label, field }));
  return [...names, ...leaves, ...rules].flatMap(({ path, label, field }) => {
    const [a, b] = [valueAt(before, path), valueAt(after, path)];
    return JSON.stringify(a) === JSON.stringify(b) ? [] : [{ path, label, field, before: a, after: b }];
  });
}
