/** What the server's worker threads do: everything that reads a file or computes on a character. */
import type { MessagePort } from 'node:worker_threads';
import { encode } from 'fast-png';
import { pack } from '../core/character/bundle';
import { brokenInvariants } from '../core/character/invariants';
import type { Character } from '../core/character/model';
import { type StoredCharacter, fromStored, toStored } from '../core/character/stored';
import { briefById } from '../core/audit/briefs';
import { type Effects, effectsOf } from '../core/audit/effects';
import { remedyById } from '../core/audit/registry';
import { type Counts, audit, countGravity } from '../core/audit/run';
import { type Finding, RemedyError } from '../core/audit/types';
import { crosswalkFromFile } from '../core/crosswalk/file';
import { posesFor, prove } from '../core/crosswalk/proof';
import { remap } from '../core/crosswalk/remap';
import { type Skeleton, skeletonOf } from '../core/crosswalk/skeleton';
import { skeletonById } from '../core/crosswalk/skeletons';
import { portrait } from '../core/docket/portrait';
import { reportHtml } from '../core/docket/report';
import { type InputFile, ReadError } from '../core/formats/errors';
import { readGltf } from '../core/formats/gltf/read';
import { writeGlb } from '../core/formats/gltf/write';

export interface Wire { readonly stored: StoredCharacter; readonly bytes: ReadonlyMap<string, Uint8Array> }

export interface Made { readonly stored: StoredCharacter; readonly bytes: ReadonlyMap<string, Uint8Array>; readonly picture: Uint8Array; readonly name: string; readonly effects: Effects | Record<string, never>; readonly notes: readonly string[] }

export interface Audited { readonly findings: Uint8Array; readonly counts: Counts }

export type Task =
  | { task: 'import'; files: InputFile[]; port?: MessagePort }
  | { task: 'audit'; wire: Wire; brief: string }
  | { task: 'remedy'; wire: Wire; brief: string; remedy: string; params: Record<string, unknown> }
  | { task: 'remap'; wire: Wire; target: { id: string } | { wire: Wire }; crosswalk: unknown; limit: number }
  | { task: 'export'; wire: Wire }
  | { task: 'report'; wire: Wire; brief: string; facts: Parameters<typeof reportHtml>[0]['facts']; picture: string | null };

/** A failure that a person can read; anything else is a fault of ours. */
export interface Refusal { readonly refused: string }

const open = (wire: Wire): Character => fromStored(wire.stored, (h) => wire.bytes.get(h));

function made(character: Character, before: Character | null, notes: readonly string[], known?: ReadonlyMap<string, Uint8Array>): Made {
  const broken = brokenInvariants(character);
  if (broken.length > 0) throw new ReadError(character.name, `the result would not be sound: ${broken[0]}`, 'Nothing was saved; please report this.');
  const { stored, bytes } = toStored(character);
  const fresh = new Map([...bytes].filter(([h]) => !known?.has(h)));
  const p = portrait(character, 360, 440);
  return { stored, bytes: fresh, picture: encode({ width: p.width, height: p.height, data: p.pixels, channels: 4 }), name: character.name, effects: before ? effectsOf(before, character) : {}, notes };
}

export default function work(job: Task): Made | Audited | { bytes: Uint8Array; notes: readonly string[] } | { html: string } | Refusal {
  try {
    switch (job.task) {
      case 'import': {
        job.port?.postMessage({ stage: 'reading', share: 0.15 });
        const character = readGltf(job.files);
        job.port?.postMessage({ stage: 'drawing its picture', share: 0.6 });
        return made(character, null, character.notes);
      }
      case 'audit': {
        const findings: Finding[] = audit(open(job.wire), need(briefById(job.brief), `the brief “${job.brief}”`));
        return { findings: new Uint8Array(pack(findings)), counts: countGravity(findings) };
      }
      case 'remedy': {
        const before = open(job.wire);
        const remedy = need(remedyById(job.remedy), `the remedy “${job.remedy}”`);
        const params = remedy.params.validateSync(job.params) as Record<string, unknown>;
        return made(remedy.apply(before, params, need(briefById(job.brief), `the brief “${job.brief}”`)), before, [], job.wire.bytes);
      }
      case 'remap': {
        const before = open(job.wire);
        const target: Skeleton = 'id' in job.target ? need(skeletonById(job.target.id), `the skeleton “${job.target.id}”`) : skeletonOf(open(job.target.wire));
        const source = skeletonOf(before);
        let crosswalk;
        try {
          crosswalk = crosswalkFromFile(job.crosswalk, source, target);
        } catch (error) {
          throw new RemedyError(`The crosswalk does not fit: ${error instanceof Error ? error.message : 'it cannot be read'}. Suggest again.`);
        }
        const result = remap(before, target, crosswalk, { limit: job.limit });
        const proof = prove(before, result, posesFor(before, crosswalk));
        const out = made(result.character, null, result.report.notes);
        return { ...out, effects: { weight: result.report.weight, vertices: result.report.vertices, deviation: { max: proof.max, rms: proof.rms, p95: proof.p95 } } as never };
      }
      case 'export': return writeGlb(open(job.wire));
      case 'report': {
        const character = open(job.wire);
        const brief = need(briefById(job.brief), `the brief “${job.brief}”`);
        return { html: reportHtml({ character, brief, findings: audit(character, brief), facts: job.facts, picture: job.picture }) };
      }
    }
  } catch (error) {
    if (error instanceof ReadError || error instanceof RemedyError || (error instanceof Error && error.name === 'ValidationError')) return { refused: error.message };
    throw error;
  }
}

function need<T>(x: T | undefined, what: string): T {
  if (x === undefined) throw new RemedyError(`There is no such thing as ${what}; reload the page.`);
  return x;
}
