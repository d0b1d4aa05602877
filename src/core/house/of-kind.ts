/**
 * One remedy for every finding of a kind: one press, one preview, one step. The patches are done one after the other;
 * what one of them leaves nothing to do for another is passed over, what cannot be done is left and told.
 */
import type { Character } from '../character/model';
import { ancestorsOf } from '../character/hierarchy';
import type { Aspect } from '../contracts/aspect';
import type { Finding, RemedyCall } from '../contracts/finding';
import { fieldsOf } from '../contracts/params';
import { NothingToDo, type Params, type Promised, RemedyError, promise } from '../contracts/remedy';
import { runCheck } from './audit';
import type { Brief } from './brief';
import { type Patch, checkPatch } from './edit';
import { effectsOf, nodesAfter } from './effects';
import { type PreviewRow, compareRows } from './preview';
import { checkById, remedyById } from './registry';
import { paramsAfter } from './rerun';

/** The calls of one remedy over all findings of a check and a gravity, each once. */
export function callsOfKind(
  findings: readonly Finding[],
  of: Pick<Finding, 'check' | 'gravity'>,
  remedy: string,
): RemedyCall[] {
  const seen = new Map<string, RemedyCall>();
  for (const finding of findings) {
    if (finding.check !== of.check || finding.gravity !== of.gravity) continue;
    for (const call of finding.remedies) if (call.id === remedy) seen.set(JSON.stringify(call.params), call);
  }
  return [...seen.values()];
}

/** What came of one remedy for many findings. */
export interface DoneForKind {
  readonly character: Character;
  readonly promised: Promised;
  /** What was done, as the patches of one step. */
  readonly patches: readonly Patch[];
  /** What could not be done, with the reason. */
  readonly left: readonly string[];
  readonly rows: readonly PreviewRow[];
}

/** Does the calls one after the other. Throws RemedyError where none of them can be done. */
export function doForKind(base: Character, calls: readonly RemedyCall[], brief: Brief): DoneForKind {
  let character = base;
  const changes = new Set<Aspect>();
  const meant = new Set<number>();
  const patches: Patch[] = [];
  const left: string[] = [];
  const rows: PreviewRow[] = [];
  let holds: Promised['holds'] = 'in every pose';
  // Where every node stands now: a step may take nodes out or put some in.
  let nodeOf = Int32Array.from(base.nodes, (_, i) => i);
  for (const call of inOrder(base, calls)) {
    const done = tryCall(character, call, nodeOf, brief);
    if (typeof done === 'string') {
      if (done !== '') left.push(done);
      continue;
    }
    rows.push(...done.rows);
    patches.push({ remedy: call.id, params: done.params });
    for (const aspect of done.promised.changes) changes.add(aspect);
    const back = new Map([...nodeOf].map((to, from) => [to, from]));
    for (const node of done.promised.meant) meant.add(back.get(node) ?? node);
    if (done.promised.holds === 'at rest') holds = 'at rest';
    const next = nodesAfter(character, done.after);
    nodeOf = nodeOf.map((i) => (i < 0 ? -1 : next[i]));
    character = done.after;
  }
  if (patches.length === 0) throw new RemedyError(left[0] ?? 'There is nothing left of this kind to do.');
  return {
    character,
    promised: promise([...changes], { meant, holds }),
    patches,
    left,
    rows: gatheredRows(rows),
  };
}

/** Calls in the order that their remedies want: a node that lies below another comes before it where they say so. */
function inOrder({ nodes }: Character, calls: readonly RemedyCall[]): RemedyCall[] {
  const depthOf = ({ id, params }: RemedyCall): number => {
    const remedy = remedyById(id);
    const field =
      remedy?.order && fieldsOf(remedy.params).find(({ kind, isList }) => kind === 'ref' && !isList);
    const node = field ? Number(params[field.name]) : -1;
    return nodes[node] ? ancestorsOf(nodes, node).length : 0;
  };
  const depths = new Map(calls.map((call) => [call, depthOf(call)]));
  return [...calls].sort((a, b) => (depths.get(b) ?? 0) - (depths.get(a) ?? 0));
}

interface Call {
  readonly after: Character;
  readonly params: Params;
  readonly promised: Promised;
  readonly rows: readonly PreviewRow[];
}

/** One call on the state that stands; why it cannot be done, '' where there is nothing to do any more. */
function tryCall(character: Character, call: RemedyCall, nodeOf: Int32Array, brief: Brief): Call | string {
  try {
    const { remedy, params: given } = checkPatch({ remedy: call.id, params: call.params });
    const params = paramsAfter(remedy, given, nodeOf);
    if (!params) return 'What one of them is about went with another one.';
    const promised = remedy.promises(character, params, brief);
    const after = remedy.apply(character, params, brief);
    return { after, params, promised, rows: compareRows(remedy, character, after, params, brief) };
  } catch (error) {
    if (error instanceof NothingToDo) return '';
    if (error instanceof RemedyError) return error.message;
    throw error;
  }
}

/**
 * Rows of one label as one. Where each goes on from what the one before it left, they are of one thing that several calls
 * changed: from the first to the last. Else they are of several: the farthest number before and after, and words only
 * where all say the same.
 */
function gatheredRows(rows: readonly PreviewRow[]): PreviewRow[] {
  const byLabel = new Map<string, PreviewRow[]>();
  for (const row of rows) byLabel.set(row.label, [...(byLabel.get(row.label) ?? []), row]);
  return [...byLabel.values()].flatMap((some): PreviewRow[] => {
    const isOneThing = some.every((row, i) => i === 0 || row.before === some[i - 1].after);
    if (isOneThing && some.length > 1) return [{ ...some[0], after: some[some.length - 1].after }];
    const before = farthest(some.map((row) => row.before));
    const after = farthest(some.map((row) => row.after));
    if (before === null || after === null) return [];
    const label = some.length > 1 ? `${some[0].label}, at most` : some[0].label;
    return [{ ...some[0], label, before, after }];
  });
}

function farthest(values: readonly (number | string)[]): number | string | null {
  if (values.every((value) => typeof value === 'number'))
    return (values as number[]).reduce((a, b) => (Math.abs(b) > Math.abs(a) ? b : a));
  return values.every((value) => value === values[0]) ? values[0] : null;
}

/** A preview of remedies for many things that a person has chosen: what all of them change, and what else would move. */
export function previewForMany(base: Character, calls: readonly RemedyCall[], brief: Brief) {
  const done = doForKind(base, calls, brief);
  return { ...done, effects: effectsOf(base, done.character, done.promised) };
}

/** A preview of one remedy for many findings: their number before and after, and what else would move. */
export function previewForKind(
  base: Character,
  calls: readonly RemedyCall[],
  of: Pick<Finding, 'check' | 'gravity'>,
  brief: Brief,
) {
  const done = doForKind(base, calls, brief);
  const check = checkById(of.check);
  const count = (character: Character) =>
    check ? runCheck(check, character, brief).filter((finding) => finding.gravity === of.gravity).length : 0;
  const row: PreviewRow = {
    label: 'Findings of this kind',
    before: count(base),
    after: count(done.character),
    unit: '',
  };
  return {
    ...done,
    rows: [row, ...done.rows],
    effects: effectsOf(base, done.character, done.promised),
  };
}
