/** What made a revision, with its parameters; enough to do it again. */
export type Step =
  | { kind: 'import'; files: { name: string; bytes: number; sha256: string }[]; notes: string[] }
  | { kind: 'remedy'; remedy: string; params: Record<string, unknown>; notes?: string[] }
  | { kind: 'remap'; target: string; limit: number; crosswalk: unknown; notes?: string[]; proof?: { max: number; rms: number; p95: number } };
