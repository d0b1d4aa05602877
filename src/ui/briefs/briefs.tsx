'use client';

import clsx from 'clsx';
import Link from 'next/link';
import { useParams, useRouter, useSearchParams } from 'next/navigation';
import { Suspense, useEffect, useState } from 'react';
import type { AnyObjectSchema } from 'yup';
import { type Brief, briefSchema } from '@/core/house/brief';
import { briefForm } from '@/core/house/brief-form';
import type { BriefEntry } from '@/routes/briefs';
import { Button } from '../kit/button';
import { FileButton } from '../kit/file-button';
import { SchemaForm } from '../kit/form/form';
import { saveJson } from '../kit/save';
import { loadBriefs, useBriefStore } from '../state/briefs';
import { CheckCard } from './check-card';
import {
  changeAt,
  openBrief,
  removeThis,
  saveAsNew,
  saveDraft,
  standBeside,
  takeBack,
  tellWrong,
  useTable,
} from './draft';
import { FieldRow } from './fields';
import { MakeBrief } from './make';
import { DraftChanges, Versions } from './versions';

/**
 * All briefs, and the one that the address names. It belongs to the layout of the routes and not to one of them: what
 * is open on the page, like a new brief being made, stays as it is when another brief is chosen.
 */
export function Briefs() {
  const { id } = useParams<{ id?: string }>();
  return (
    <Suspense>
      <Page id={id ?? null} />
    </Suspense>
  );
}

function Page({ id }: { id: string | null }) {
  const entries = useBriefStore((briefs) => briefs.entries);
  const failure = useBriefStore((briefs) => briefs.error);
  const beside = useSearchParams().get('with') ?? '';
  const [isMaking, setMaking] = useState(false);
  useEffect(() => {
    void loadBriefs();
  }, []);
  useEffect(() => {
    if (id) void openBrief(id, beside);
  }, [id, beside]);
  const router = useRouter();
  const first = entries && (entries.find((entry) => entry.origin === 'own') ?? entries[0]);
  useEffect(() => {
    // Without one that is asked for the first of the list lies open.
    if (!id && first) router.replace(`/briefs/${first.brief.id}${beside && `?with=${beside}`}`);
  }, [id, first, beside, router]);
  const back = beside ? `/c/${beside}` : '/';
  return (
    <div className="flex h-screen min-w-[1100px] flex-col">
      <header className="flex h-[52px] shrink-0 items-center gap-4 border-b border-rule bg-sheet px-6">
        {/* eslint-disable-next-line @next/next/no-img-element */}
        <img src="/bough.svg" alt="" width={22} height={22} />
        <h1 className="title text-[19px]">Briefs</h1>
        <span className="text-soft">what games want of a character</span>
        <span className="flex-1" />
        <Link href={back} className="rounded px-1 text-soft underline hover:text-ink">
          {beside ? 'Back to the character' : 'The shelf'}
        </Link>
        <BringIn />
        <Button kind="leaf" disabled={!entries} onClick={() => setMaking(true)}>
          A brief of your own …
        </Button>
      </header>
      <div className="grid min-h-0 flex-1 grid-cols-[300px_minmax(0,1fr)]">
        <BriefList entries={entries ?? []} chosen={id} />
        <main className="flex min-h-0 flex-col">
          {failure && (
            <p role="alert" className="px-8 py-2 text-stops">
              {failure}
            </p>
          )}
          {id && <Editor onMake={() => setMaking(true)} />}
        </main>
      </div>
      {isMaking && entries && (
        <MakeBrief entries={entries} like={id ?? entries[0].brief.id} onClose={() => setMaking(false)} />
      )}
    </div>
  );
}

/** A brief from a file becomes one of one's own. */
function BringIn() {
  const router = useRouter();
  const take = async (file: File) => {
    try {
      const brief = JSON.parse(await file.text()) as Brief;
      const id = await saveAsNew(brief, String(brief.title ?? file.name.replace(/\.json$/i, '')));
      if (id) router.push(`/briefs/${id}`);
    } catch {
      useTable.setState({ error: `“${file.name}” is no JSON; choose a brief’s file.` });
    }
  };
  return (
    <FileButton label="File of a brief" accept=".json,application/json" onFile={(file) => void take(file)}>
      From a file …
    </FileButton>
  );
}

/** The briefs, those that were made here first. */
function BriefList({ entries, chosen }: { entries: readonly BriefEntry[]; chosen: string | null }) {
  const groups = [
    { title: 'Made here', of: entries.filter((entry) => entry.origin === 'own') },
    { title: 'Came with the house', of: entries.filter((entry) => entry.origin === 'house') },
  ];
  return (
    <nav aria-label="Briefs" className="min-h-0 overflow-y-auto border-r border-rule bg-sheet px-3 py-3">
      {groups.map(
        ({ title, of }) =>
          of.length > 0 && (
            <section key={title} className="mb-4">
              <h2 className="px-2 text-[12.5px] font-semibold text-soft">{title}</h2>
              <ul>
                {of.map(({ brief, users }) => (
                  <li key={brief.id}>
                    <Link
                      href={`/briefs/${brief.id}`}
                      aria-current={brief.id === chosen ? 'page' : undefined}
                      className={clsx(
                        'block rounded-md px-2 py-1.5',
                        brief.id === chosen ? 'bg-damson-wash text-damson' : 'hover:bg-wash',
                      )}
                    >
                      <span className="font-semibold">{brief.title}</span>
                      <span className="block text-[12.5px] text-soft">
                        {brief.version > 1 && `version ${brief.version} · `}
                        {usersText(users)}
                      </span>
                    </Link>
                  </li>
                ))}
              </ul>
            </section>
          ),
      )}
    </nav>
  );
}

function usersText(users: BriefEntry['users']): string {
  if (users.length === 0) return 'nobody is held against it';
  const names = users.slice(0, 2).map((user) => user.name);
  return users.length > 2 ? `${names.join(', ')} and ${users.length - 2} more` : names.join(', ');
}

const BRIEF = briefSchema as unknown as AnyObjectSchema;

/** The brief on the table. */
function Editor({ onMake }: { onMake: () => void }) {
  const draft = useTable((table) => table.draft);
  const error = useTable((table) => table.error);
  const said = useTable((table) => table.said);
  const origin = useTable((table) => table.origin);
  const isLocked = origin === 'house';
  if (!draft)
    return (
      <p role={error ? 'alert' : 'status'} className={clsx('px-8 py-5', error ? 'text-stops' : 'text-soft')}>
        {error ?? 'Fetching the brief …'}
      </p>
    );
  const { base, rooms } = briefForm();
  return (
    <>
      <Names draft={draft} isLocked={isLocked} onMake={onMake} />
      <div className="min-h-0 flex-1 overflow-y-auto px-8 pb-16 pt-3">
        <div className="max-w-[860px]">
          {error && (
            <p role="alert" className="text-stops">
              {error}
            </p>
          )}
          {said && (
            <p role="status" className="text-fine">
              {said}
            </p>
          )}
          <DraftChanges />
          <SchemaForm
            key={draft.id}
            schema={BRIEF}
            values={draft}
            unit={draft.unit}
            isLocked={isLocked}
            onTake={changeAt}
            onWrong={tellWrong}
          >
            <section className="mt-3" aria-label="As a whole">
              <h3 className="title border-b border-rule text-[19px]">As a whole</h3>
              {base.map((field) => (
                <FieldRow key={field.path} field={field} isLocked={isLocked} />
              ))}
            </section>
            {rooms.map((room) => (
              <section key={room.id} className="mt-6" aria-label={room.title}>
                <h3 className="title border-b border-rule text-[19px]">{room.title}</h3>
                <ul>
                  {room.checks.map((check) => (
                    <CheckCard key={check.id} check={check} isLocked={isLocked} />
                  ))}
                </ul>
              </section>
            ))}
          </SchemaForm>
          <Versions />
        </div>
      </div>
    </>
  );
}

/** Its name, what it is about, and what can be done with it. */
function Names({ draft, isLocked, onMake }: { draft: Brief; isLocked: boolean; onMake: () => void }) {
  const words =
    'w-full rounded-md border border-transparent bg-transparent hover:border-rule focus:border-rule';
  return (
    <div className="shrink-0 border-b border-rule px-8 pb-2.5 pt-3">
      {isLocked ? (
        <>
          <h2 className="title text-[26px]">{draft.title}</h2>
          <p className="text-soft">{draft.about} It came with the house and stays as it is.</p>
        </>
      ) : (
        <>
          <input
            aria-label="Title of the brief"
            value={draft.title}
            maxLength={120}
            onChange={(event) => changeAt('title', event.target.value)}
            className={`title h-10 text-[26px] ${words}`}
          />
          <input
            aria-label="What the brief is about"
            value={draft.about}
            maxLength={600}
            placeholder="What it is about, in a sentence"
            onChange={(event) => changeAt('about', event.target.value)}
            className={`h-7 text-soft ${words}`}
          />
        </>
      )}
      <div className="mt-1.5 flex items-center gap-2">
        <Beside />
        <span className="flex-1" />
        <span className="mono shrink-0 text-soft">version {draft.version}</span>
        {isLocked ? (
          <Button kind="leaf" onClick={onMake}>
            Make one like it …
          </Button>
        ) : (
          <Doings draft={draft} />
        )}
        <Button kind="quiet" onClick={() => saveJson(draft, `${draft.id}.brief.json`)}>
          As a file
        </Button>
      </div>
    </div>
  );
}

/** What can be done with a brief that was made here. */
function Doings({ draft }: { draft: Brief }) {
  const router = useRouter();
  const saved = useTable((table) => table.saved);
  const isBusy = useTable((table) => table.isBusy);
  const isWrong = useTable((table) => table.isWrong);
  const [isSure, setSure] = useState(false);
  const isChanged = saved !== draft;
  const remove = () => {
    if (!isSure) return setSure(true);
    void removeThis().then((isDone) => isDone && router.push('/briefs'));
  };
  return (
    <>
      {isChanged && <Button onClick={takeBack}>Take back</Button>}
      <Button
        kind="leaf"
        disabled={!isChanged || isBusy || isWrong || draft.title.trim() === ''}
        onClick={() => void saveDraft()}
      >
        Save version {(saved?.version ?? 0) + 1}
      </Button>
      <Button kind="quiet" onClick={remove} onBlur={() => setSure(false)}>
        {isSure ? 'Really remove it?' : 'Remove'}
      </Button>
    </>
  );
}

/** The character that stands beside the brief while it is read and changed. */
function Beside() {
  const shelf = useTable((table) => table.shelf);
  const beside = useTable((table) => table.beside);
  const standing = useTable((table) => table.standing);
  const stops = standing?.findings.filter((finding) => finding.gravity === 'stops').length ?? 0;
  return (
    <p className="flex min-w-0 items-center gap-2">
      <label className="flex shrink-0 items-center gap-2 text-soft">
        beside it
        <select
          value={beside}
          onChange={(event) => standBeside(event.target.value)}
          className="h-8 max-w-[260px] rounded-md border border-rule bg-sheet px-2 font-semibold text-ink"
        >
          <option value="">nobody</option>
          {shelf
            .filter((entry) => entry.head)
            .map((entry) => (
              <option key={entry.id} value={entry.id}>
                {entry.name}
              </option>
            ))}
        </select>
      </label>
      {beside && (
        <span
          role="status"
          className={clsx('whitespace-nowrap', standing && stops > 0 ? 'text-stops' : 'text-soft')}
        >
          {!standing && 'measuring …'}
          {standing && (stops === 0 ? '✓ nothing stops hand-off' : `${stops} stop hand-off`)}
        </span>
      )}
    </p>
  );
}
