import { type InferType, array, boolean, number, object, string } from 'yup';
import {
  type Crosswalk,
  RULE_KINDS,
  type Rule,
  type RuleKind,
  hasTarget,
  normaliseRule,
} from '../../anatomy/crosswalk';
import { type NamedPlace, allNamed, finderOf } from '../../character/named';
import { type Skeleton, fingerprintOf } from '../../anatomy/skeleton';
import { checkedBy } from '../../contracts/checked';

/** The crosswalk as a file: bones by name, both skeletons by fingerprint. */
export const crosswalkFileSchema = object({
  kind: string().oneOf(['young-bough-crosswalk']).required(),
  source: object({ title: string().defined(), fingerprint: string().required() }).required(),
  target: object({ title: string().defined(), fingerprint: string().required() }).required(),
  rules: array(
    object({
      source: string().defined(),
      rule: string<RuleKind>().oneOf(RULE_KINDS).required(),
      target: string().nullable().default(null),
      confidence: number().min(0).max(1).default(1),
      reasons: array(string().defined()).default([]),
      locked: boolean().default(false),
      /** Place among the target’s bones of that name; absent for the first. */
      nth: number().integer().min(0).optional(),
      /** Further targets of a share, by name and place among their namesakes. */
      further: array(object({ name: string().defined(), nth: number().integer().min(0).default(0) }))
        .max(1000)
        .optional(),
      /** Of a share whose target another bone leads. */
      joins: boolean().isTrue().optional(),
      /** Another target that is about as good. */
      other: string().optional(),
      /** How far off a person has found it fine, metres. */
      accepted: number().min(0).optional(),
    }),
  )
    .required()
    .max(100_000),
});

export type CrosswalkFile = InferType<typeof crosswalkFileSchema>;

/** A crosswalk as it is kept and sent: bones by their names, and by their place among those of the same name. */
export function crosswalkToFile(crosswalk: Crosswalk, source: Skeleton, target: Skeleton): CrosswalkFile {
  const theirs = allNamed(namesOf(target));
  return {
    kind: 'young-bough-crosswalk',
    source: { title: source.title, fingerprint: fingerprintOf(source) },
    target: { title: target.title, fingerprint: fingerprintOf(target) },
    rules: crosswalk.map((rule) => ({
      source: source.bones[rule.source].name,
      rule: rule.kind,
      target: rule.target >= 0 ? theirs[rule.target].name : null,
      confidence: rule.confidence,
      reasons: [...rule.reasons],
      locked: rule.locked,
      ...(rule.target >= 0 && theirs[rule.target].nth > 0 && { nth: theirs[rule.target].nth }),
      ...(rule.further && { further: rule.further.map((their) => theirs[their]) }),
      ...(rule.joins && { joins: true as const }),
      ...(rule.other !== undefined && { other: theirs[rule.other].name }),
      ...(rule.accepted !== undefined && { accepted: rule.accepted }),
    })),
  };
}

const namesOf = ({ bones }: Skeleton) => bones.map((bone) => bone.name);

/**
 * Reads a crosswalk file for two skeletons. Bones of one name are told apart by their order. Throws an Error that
 * names the bone that is missing on either side.
 */
export function crosswalkFromFile(json: unknown, source: Skeleton, target: Skeleton): Crosswalk {
  const file = checkedBy(crosswalkFileSchema, json);
  const find = finderOf(file.rules.map((rule) => rule.source));
  const findTarget = finderOf(namesOf(target));
  return normaliseRule(
    allNamed(namesOf(source)).map((named, i) => {
      const rule = file.rules[find(named)];
      if (!rule) throw new Error(`it has no rule for the bone “${named.name}”`);
      return readRule(rule, i, findTarget, target);
    }),
  );
}

/** The rules of a file for the bones that are here, and the bones that it names and that are not. */
export function rulesByName(
  file: CrosswalkFile,
  source: Skeleton,
  target: Skeleton,
): { rules: Crosswalk; gone: string[] } {
  const find = finderOf(file.rules.map((rule) => rule.source));
  const findTarget = finderOf(namesOf(target));
  const used = new Set<number>();
  const rules = allNamed(namesOf(source)).flatMap((named, i): Rule[] => {
    const at = find(named);
    if (at < 0) return [];
    used.add(at);
    try {
      return [readRule(file.rules[at], i, findTarget, target)];
    } catch {
      return [];
    }
  });
  return { rules, gone: file.rules.flatMap((rule, i) => (used.has(i) ? [] : [rule.source])) };
}

function readRule(
  row: CrosswalkFile['rules'][number],
  source: number,
  find: (named: NamedPlace) => number,
  { title }: Skeleton,
): Rule {
  const needs = hasTarget({ kind: row.rule });
  const target = needs ? find({ name: row.target ?? '', nth: row.nth ?? 0 }) : -1;
  if (needs && target < 0)
    throw new Error(`“${row.source}” goes to “${row.target}”, which ${title} does not have`);
  const further = (row.further ?? []).map((named) => {
    const at = find(named);
    if (at < 0)
      throw new Error(`“${row.source}” is shared with “${named.name}”, which ${title} does not have`);
    return at;
  });
  const other = row.other === undefined ? -1 : find({ name: row.other, nth: 0 });
  return {
    source,
    kind: row.rule,
    target,
    confidence: row.confidence,
    reasons: row.reasons,
    locked: row.locked,
    ...(row.rule === 'share' && { further }),
    ...(row.rule === 'share' && row.joins && { joins: true as const }),
    ...(other >= 0 && { other }),
    ...(row.accepted !== undefined && { accepted: row.accepted }),
  };
}
