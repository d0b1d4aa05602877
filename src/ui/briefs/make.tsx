'use client';

import clsx from 'clsx';
import { useRouter } from 'next/navigation';
import { useCallback, useEffect, useState } from 'react';
import type { Brief } from '@/core/house/brief';
import { leavesOfForm } from '@/core/house/brief-form';
import { CHECKS } from '@/core/house/registry';
import { takenAtFirst, withLearned } from '@/core/house/learn';
import { type BriefEntry, learnFrom } from '@/routes/briefs';
import { type ShelfEntry, listCharacters } from '@/routes/characters';
import type { AnswerOf } from '@/routes/route';
import { call, messageOf } from '../kit/api';
import { Button, Chip } from '../kit/button';
import { PaperDialog } from '../kit/dialog';
import { saveAsNew, useTable } from './draft';
import { valueWords } from './words';

type Learned = AnswerOf<typeof learnFrom>;

const BOX = 'h-8 rounded-md border border-rule bg-sheet px-2';

/** A new brief: like another one, or learned from a character that is right. */
export function MakeBrief({
  entries,
  like,
  onClose,
}: {
  entries: readonly BriefEntry[];
  /** Id of the brief that it begins from. */
  like: string;
  onClose: () => void;
}) {
  const router = useRouter();
  const [from, setFrom] = useState(like);
  const [title, setTitle] = useState('');
  const [isLearning, setLearning] = useState(false);
  const [learned, setAnswer] = useState<Learned | null>(null);
  const [taken, setTaken] = useState<ReadonlySet<string>>(new Set());
  const setLearned = useCallback((answer: Learned | null) => {
    setAnswer(answer);
    setTaken(takenAtFirst(answer?.settings ?? []));
  }, []);
  const [failure, setFailure] = useState<string | null>(null);
  const error = useTable((table) => table.error);
  const base = entries.find((entry) => entry.brief.id === from)?.brief;
  const make = async (brief: Brief) => {
    const id = await saveAsNew(brief, title.trim());
    if (!id) return;
    onClose();
    router.push(`/briefs/${id}`);
  };
  return (
    <PaperDialog
      title="A brief of your own"
      about="It begins as another one is, or as a character that is right needs it; everything can be changed afterwards."
      width={640}
      onClose={onClose}
    >
      <div className="mt-4 grid grid-cols-[120px_minmax(0,1fr)] items-center gap-x-3 gap-y-2">
        <label htmlFor="brief-title" className="text-soft">
          Its name
        </label>
        <input
          id="brief-title"
          value={title}
          maxLength={120}
          placeholder="The game, the machine"
          onChange={(event) => setTitle(event.target.value)}
          className={BOX}
        />
        <label htmlFor="brief-from" className="text-soft">
          Begins like
        </label>
        <select
          id="brief-from"
          value={from}
          onChange={(event) => setFrom(event.target.value)}
          className={BOX}
        >
          {entries.map(({ brief }) => (
            <option key={brief.id} value={brief.id}>
              {brief.title}
            </option>
          ))}
        </select>
        <span />
        <div className="flex gap-1.5" role="group" aria-label="Where its numbers come from">
          <Chip on={!isLearning} onClick={() => setLearning(false)}>
            as that one has them
          </Chip>
          <Chip on={isLearning} onClick={() => setLearning(true)}>
            learned from a character
          </Chip>
        </div>
      </div>
      {isLearning && <Learn base={from} title={title} onLearned={setLearned} onFailure={setFailure} />}
      {isLearning && learned && <LearnedTable learned={learned} taken={taken} onTaken={setTaken} />}
      {(failure ?? error) && (
        <p role="alert" className="mt-2 text-stops">
          {failure ?? error}
        </p>
      )}
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button
          kind="leaf"
          disabled={title.trim() === '' || (isLearning ? !learned : !base)}
          onClick={() => void make((isLearning && learned ? withLearned(learned, taken) : base) as Brief)}
        >
          Make it
        </Button>
      </div>
    </PaperDialog>
  );
}

/** Which character it is learned from. */
function Learn({
  base,
  title,
  onLearned,
  onFailure,
}: {
  base: string;
  title: string;
  onLearned: (learned: Learned | null) => void;
  onFailure: (why: string | null) => void;
}) {
  const [shelf, setShelf] = useState<readonly ShelfEntry[]>([]);
  const [chosen, setChosen] = useState('');
  const [isBusy, setBusy] = useState(false);
  useEffect(() => {
    void call(listCharacters, {}).then(
      ({ characters }) => setShelf(characters.filter((character) => character.head)),
      (error: unknown) => onFailure(messageOf(error)),
    );
  }, [onFailure]);
  const learn = async () => {
    const head = shelf.find((entry) => entry.id === chosen)?.head;
    if (!head) return;
    setBusy(true);
    onFailure(null);
    onLearned(null);
    try {
      onLearned(await call(learnFrom, { id: head, base, title: title.trim() || 'Learned' }));
    } catch (error) {
      onFailure(messageOf(error));
    } finally {
      setBusy(false);
    }
  };
  return (
    <div className="mt-2 flex items-center gap-2">
      <select
        aria-label="Character that is right"
        value={chosen}
        onChange={(event) => setChosen(event.target.value)}
        className={`${BOX} min-w-0 flex-1`}
      >
        <option value="">a character that is right …</option>
        {shelf.map((character) => (
          <option key={character.id} value={character.id}>
            {character.name}
          </option>
        ))}
      </select>
      <Button disabled={chosen === '' || isBusy} onClick={() => void learn()}>
        {isBusy ? 'Measuring …' : 'Measure it'}
      </Button>
    </div>
  );
}

/** What was learned, before it is taken. */
function LearnedTable({
  learned: { brief, settings, eased },
  taken,
  onTaken,
}: {
  learned: Learned;
  taken: ReadonlySet<string>;
  onTaken: (taken: ReadonlySet<string>) => void;
}) {
  const toggle = (path: string) =>
    onTaken(
      new Set(taken.has(path) ? [...taken].filter((otherPath) => otherPath !== path) : [...taken, path]),
    );
  const fields = leavesOfForm();
  const titles = new Map(CHECKS.map((check) => [check.id, check.title]));
  return (
    <>
      <div className="mt-2 rounded-lg border border-rule">
        <table className="w-full text-[12.5px]" aria-label="What was learned">
          <thead className="bg-wash text-left text-soft">
            <tr>
              <th className="px-2 py-1 font-normal">take</th>
              <th className="px-2 py-1 font-normal">setting</th>
              <th className="px-2 py-1 text-right font-normal">measured</th>
              <th className="px-2 py-1 text-right font-normal">plain</th>
              <th className="px-2 py-1 text-right font-normal">it was</th>
              <th className="px-2 py-1 text-right font-normal">becomes</th>
            </tr>
          </thead>
          <tbody>
            {settings.map(({ path, measured, before, now, plain, doubt }) => {
              const field = fields.get(path) ?? null;
              const words = (x: unknown) => valueWords(field, x, brief.unit);
              return (
                <tr key={path} className="border-t border-rule/70">
                  <td className="px-2 py-1">
                    <input
                      type="checkbox"
                      aria-label={`Take ${field?.label ?? path}`}
                      checked={taken.has(path)}
                      onChange={() => toggle(path)}
                      className="accent-[var(--leaf)]"
                    />
                  </td>
                  <td className="px-2 py-1">
                    {field?.label ?? path}
                    {doubt && <span className="block text-worth">{doubt}</span>}
                  </td>
                  <td className="mono px-2 py-1 text-right [overflow-wrap:anywhere]">{words(measured)}</td>
                  <td className="mono px-2 py-1 text-right text-soft [overflow-wrap:anywhere]">
                    {words(plain)}
                  </td>
                  <td className="mono px-2 py-1 text-right text-soft [overflow-wrap:anywhere]">
                    {words(before)}
                  </td>
                  <td
                    className={clsx(
                      'mono px-2 py-1 text-right [overflow-wrap:anywhere]',
                      words(now) === words(before) ? 'text-soft' : 'font-semibold',
                    )}
                  >
                    {words(now)}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      {eased.length > 0 && (
        <p className="mt-1 text-[12.5px] text-worth">
          Told only, since this very character has them: {eased.map((id) => titles.get(id) ?? id).join(', ')}.
        </p>
      )}
    </>
  );
}
