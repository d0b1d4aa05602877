/** What the server's worker threads do: everything that reads a file or computes on a character. */
import type { MessagePort } from 'node:worker_threads';
import { encode } from 'fast-png';
import { pack } from '../core/character/bundle';
import { brokenInvariants } from '../core/character/invariants';
import type { Character, Clip } from '../core/character/model';
import { type StoredCharacter, fromStored, toStored } from '../core/character/stored';
import { briefById } from '../core/house/briefs';
import { type Effects, effectsOf } from '../core/house/effects';
import { remedyById } from '../core/house/registry';
import { type Counts, audit, countGravity } from '../core/house/run';
import { type Finding, NothingToDo, RemedyError } from '../core/contracts/types';
import { crosswalkFromFile } from '../core/rooms/crosswalk/file';
import { posesFor, prove } from '../core/rooms/crosswalk/proof';
import { remap } from '../core/rooms/crosswalk/remap';
import { type Skeleton, skeletonOf } from '../core/anatomy/skeleton';
import { skeletonById } from '../core/anatomy/skeletons';
import { portrait } from '../core/rooms/docket/portrait';
import { reportHtml } from '../core/rooms/docket/report';
import { type InputFile, ReadError } from '../core/formats/errors';
import {
  type ReadOptions,
  type WriteFormat,
  type WrittenFiles,
  type WrittenPose,
  readCharacter,
  writeCharacter,
} from '../core/formats';
import { DEFAULT_LIMITS } from '../core/formats/errors';
import { joined } from '../core/character/join';
import { boxOf, placedMeshes, skeletonBox } from '../core/character/measure';
import { bonesOf } from '../core/character/hierarchy';
import { type NamedParams, namesOfParams, refitted } from '../core/house/rerun';
import { clipMorphs, clipWorld } from '../core/motion/pose';

export interface Wire {
  readonly stored: StoredCharacter;
  readonly bytes: ReadonlyMap<string, Uint8Array>;
}

export interface Made {
  readonly stored: StoredCharacter;
  readonly bytes: ReadonlyMap<string, Uint8Array>;
  readonly picture: Uint8Array;
  readonly name: string;
  readonly effects: Effects | Record<string, never>;
  readonly notes: readonly string[];
  /** What the step's indices stood for. */ readonly names?: NamedParams;
  /** The audit of what was made, where a brief was given. */ readonly audited?: Audited;
}

/** What a set of files holds, before it is taken in: for the questions that they do not answer themselves. */
export interface Surveyed {
  readonly name: string;
  readonly format: string;
  readonly unitMetres: number;
  readonly upAxis: 'x' | 'y' | 'z';
  readonly stated: { readonly unit: boolean; readonly upAxis: boolean };
  /** Extent along the axes as read, metres. */ readonly size: readonly [number, number, number];
  readonly bones: number;
  readonly vertices: number;
  readonly clips: number;
}

export interface Exported {
  readonly files: WrittenFiles['files'];
  readonly notes: readonly string[];
}

export interface Audited {
  readonly findings: Uint8Array;
  readonly counts: Counts;
}

export type Task =
  | { task: 'import'; files: InputFile[]; options?: ReadOptions; brief?: string; port?: MessagePort }
  | { task: 'survey'; files: InputFile[] }
  | { task: 'add'; wire: Wire; files: InputFile[]; options?: ReadOptions; brief: string; port?: MessagePort }
  | { task: 'audit'; wire: Wire; brief: string; port?: MessagePort }
  | {
      task: 'again';
      wire: Wire;
      brief: string;
      remedy: string;
      params: Record<string, unknown>;
      names: NamedParams;
    }
  | { task: 'remedy'; wire: Wire; brief: string; remedy: string; params: Record<string, unknown> }
  | { task: 'remap'; wire: Wire; target: { id: string } | { wire: Wire }; crosswalk: unknown; limit: number }
  | { task: 'export'; wire: Wire; format: WriteFormat; stem: string; pose?: { clip: number; time: number } }
  | {
      task: 'report';
      wire: Wire;
      brief: string;
      facts: Parameters<typeof reportHtml>[0]['facts'];
      picture: string | null;
    };

/** A failure that a person can read; anything else is a fault of ours. `needless`: there was nothing to do. */
export interface Refusal {
  readonly refused: string;
  readonly needless?: boolean;
}

const open = (wire: Wire): Character => fromStored(wire.stored, (h) => wire.bytes.get(h));

const LIMITS = {
  ...DEFAULT_LIMITS,
  bytes: Number(process.env.BOUGH_UPLOAD_BYTES ?? DEFAULT_LIMITS.bytes),
  vertices: Number(process.env.BOUGH_VERTICES ?? DEFAULT_LIMITS.vertices),
};

function made(
  character: Character,
  effects: Made['effects'],
  notes: readonly string[],
  known?: ReadonlyMap<string, Uint8Array>,
): Made {
  const broken = brokenInvariants(character);
  if (broken.length > 0)
    throw new ReadError(
      character.name,
      `the result would not be sound: ${broken[0]}`,
      'Nothing was saved; please report this.',
    );
  const { stored, bytes } = toStored(character);
  const fresh = new Map([...bytes].filter(([h]) => !known?.has(h)));
  const p = portrait(character, 360, 440);
  return {
    stored,
    bytes: fresh,
    picture: encode({ width: p.width, height: p.height, data: p.pixels, channels: 4 }),
    name: character.name,
    effects,
    notes,
  };
}

function audited(character: Character, briefId: string, port?: MessagePort, from = 0, to = 1): Audited {
  const findings: Finding[] = audit(character, need(briefById(briefId), `the brief “${briefId}”`), {
    onCheck: (check, _found, done, of) =>
      port?.postMessage({
        stage: `auditing: ${check.title.toLowerCase()}`,
        share: from + (to - from) * (done / of),
      }),
  });
  return { findings: new Uint8Array(pack(findings)), counts: countGravity(findings) };
}

function remedied(
  before: Character,
  briefId: string,
  remedyId: string,
  given: Record<string, unknown>,
  wire: Wire,
): Made {
  const remedy = need(remedyById(remedyId), `the remedy “${remedyId}”`);
  const brief = need(briefById(briefId), `the brief “${briefId}”`);
  const params = remedy.params.validateSync(given) as Record<string, unknown>;
  const pledge = remedy.promises?.(before, params, brief);
  const after = remedy.apply(before, params, brief);
  return {
    ...made(after, effectsOf(before, after, pledge), [], wire.bytes),
    names: namesOfParams(before, params),
    audited: audited(after, briefId),
  };
}

export default function work(job: Task): Made | Audited | Surveyed | Exported | { html: string } | Refusal {
  try {
    switch (job.task) {
      case 'import': {
        job.port?.postMessage({ stage: 'reading', share: 0.15 });
        const character = readCharacter(job.files, LIMITS, job.options);
        const found = job.brief ? audited(character, job.brief, job.port, 0.4, 0.8) : undefined;
        job.port?.postMessage({ stage: 'drawing its picture', share: 0.8 });
        return { ...made(character, {}, character.notes), audited: found };
      }
      case 'survey':
        return surveyOf(readCharacter(job.files, LIMITS));
      case 'add': {
        const before = open(job.wire);
        job.port?.postMessage({ stage: 'reading', share: 0.15 });
        const addition = readCharacter(job.files, LIMITS, job.options);
        job.port?.postMessage({ stage: 'joining', share: 0.5 });
        const after = joined(before, addition);
        const found = audited(after, job.brief, job.port, 0.55, 0.8);
        job.port?.postMessage({ stage: 'drawing its picture', share: 0.8 });
        return {
          ...made(
            after,
            effectsOf(before, after),
            after.notes.filter((n) => !before.notes.includes(n)),
            job.wire.bytes,
          ),
          name: addition.name,
          audited: found,
        };
      }
      case 'audit':
        return audited(open(job.wire), job.brief, job.port);
      case 'remedy':
        return remedied(open(job.wire), job.brief, job.remedy, job.params, job.wire);
      case 'again': {
        const before = open(job.wire);
        const fit = refitted(before, job.params, job.names);
        if ('missing' in fit) throw new RemedyError(fit.missing);
        return remedied(before, job.brief, job.remedy, fit.params, job.wire);
      }
      case 'remap': {
        const before = open(job.wire);
        const target: Skeleton =
          'id' in job.target
            ? need(skeletonById(job.target.id), `the skeleton “${job.target.id}”`)
            : skeletonOf(open(job.target.wire));
        const source = skeletonOf(before);
        let crosswalk;
        try {
          crosswalk = crosswalkFromFile(job.crosswalk, source, target);
        } catch (error) {
          throw new RemedyError(
            `The crosswalk does not fit: ${error instanceof Error ? error.message : 'it cannot be read'}. Suggest again.`,
          );
        }
        const result = remap(before, target, crosswalk, { limit: job.limit });
        const proof = prove(before, result, posesFor(before, crosswalk));
        const out = made(result.character, {}, result.report.notes);
        return {
          ...out,
          effects: {
            weight: result.report.weight,
            vertices: result.report.vertices,
            deviation: { max: proof.max, rms: proof.rms, p95: proof.p95 },
          } as never,
        };
      }
      case 'export': {
        const character = open(job.wire);
        const clip = job.pose ? character.clips[job.pose.clip] : undefined;
        if (job.pose && !clip)
          throw new RemedyError('There is no such clip to take the pose from; choose another.');
        return writeCharacter(
          character,
          job.format,
          job.stem,
          clip && job.pose ? { pose: posedBy(character, clip, job.pose.time) } : {},
        );
      }
      case 'report': {
        const character = open(job.wire);
        const brief = need(briefById(job.brief), `the brief “${job.brief}”`);
        return {
          html: reportHtml({
            character,
            brief,
            findings: audit(character, brief),
            facts: job.facts,
            picture: job.picture,
          }),
        };
      }
    }
  } catch (error) {
    if (
      error instanceof ReadError ||
      error instanceof RemedyError ||
      (error instanceof Error && error.name === 'ValidationError')
    )
      return { refused: error.message, ...(error instanceof NothingToDo ? { needless: true } : {}) };
    throw error;
  }
}

const posedBy = (c: Character, clip: Clip, time: number): WrittenPose => ({
  world: clipWorld(c, clip, time),
  morphs: (node) => clipMorphs(c, clip, time, node),
});

function surveyOf(c: Character): Surveyed {
  const box = boxOf(placedMeshes(c).map((p) => p.points)) ?? skeletonBox(c);
  const size = [0, 1, 2].map((k) => (box ? box.max[k] - box.min[k] : 0)) as unknown as [
    number,
    number,
    number,
  ];
  const loose =
    [c.source, ...(c.added ?? [])].find((s) => s.stated && (!s.stated.unit || !s.stated.upAxis)) ?? c.source;
  return {
    name: c.name,
    format: loose.format,
    unitMetres: loose.unitMetres,
    upAxis: loose.upAxis ?? 'y',
    stated: loose.stated ?? { unit: true, upAxis: true },
    size,
    bones: bonesOf(c).length,
    vertices: c.meshes.reduce((n, m) => n + m.vertexCount, 0),
    clips: c.clips.length,
  };
}

function need<T>(x: T | undefined, what: string): T {
  if (x === undefined) throw new RemedyError(`There is no such thing as ${what}; reload the page.`);
  return x;
}
