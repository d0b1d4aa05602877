import { array, boolean, number, object, string } from 'yup';
import { type Crosswalk, RULE_KINDS, type Rule, type RuleKind, tidy } from '../../anatomy/crosswalk';
import { type Skeleton, fingerprintOf } from '../../anatomy/skeleton';

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
    }),
  )
    .required()
    .max(100_000),
});

export type CrosswalkFile = ReturnType<typeof crosswalkToFile>;

/** A crosswalk as it is kept and sent: bones by their names. */
export function crosswalkToFile(crosswalk: Crosswalk, source: Skeleton, target: Skeleton) {
  return {
    kind: 'young-bough-crosswalk' as const,
    source: { title: source.title, fingerprint: fingerprintOf(source) },
    target: { title: target.title, fingerprint: fingerprintOf(target) },
    rules: crosswalk.map((r) => ({
      source: source.bones[r.source].name,
      rule: r.kind,
      target: r.target >= 0 ? target.bones[r.target].name : null,
      confidence: r.confidence,
      reasons: [...r.reasons],
      locked: r.locked,
    })),
  };
}

/**
 * Reads a crosswalk file for two skeletons. Throws an Error that names the bone that is missing on either
 * side.
 */
export function crosswalkFromFile(json: unknown, source: Skeleton, target: Skeleton): Crosswalk {
  const file = crosswalkFileSchema.validateSync(json);
  const byName = new Map(file.rules.map((r) => [r.source, r]));
  return tidy(
    source.bones.map((b, i): Rule => {
      const r = byName.get(b.name);
      if (!r) throw new Error(`it has no rule for the bone “${b.name}”`);
      const needs = r.rule === 'carry' || r.rule === 'fold';
      const at = needs ? target.bones.findIndex((t) => t.name === r.target) : -1;
      if (needs && at < 0)
        throw new Error(`“${b.name}” goes to “${r.target}”, which ${target.title} does not have`);
      return {
        source: i,
        kind: r.rule,
        target: at,
        confidence: r.confidence,
        reasons: r.reasons,
        locked: r.locked,
      };
    }),
  );
}
