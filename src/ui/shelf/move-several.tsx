'use client';

import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { SKELETONS } from '@/core/anatomy/skeletons';
import { skeletonWanted } from '@/core/anatomy/skeletons/wanted';
import { askForJobs } from '@/routes/jobs';
import { call, messageOf } from '../kit/api';
import { Button } from '../kit/button';
import { PaperDialog } from '../kit/dialog';
import type { ShelfFigure } from '../state/shelf';

/** Every character onto the skeleton that its own brief wants. */
const AS_BRIEFED = 'as-briefed';

/** The job of moving one character's weights with what is saved for its skeleton, or what is suggested. */
function partOf(entry: ShelfFigure, asked: string, weights: 'example' | 'rules') {
  const wanted = entry.wants && skeletonWanted(entry.wants);
  const skeleton = asked === AS_BRIEFED ? wanted : SKELETONS.find((skeleton) => skeleton.id === asked);
  if (!skeleton)
    throw new Error(
      `The brief of “${entry.name}” wants a skeleton that the house does not know; choose one in the brief, or take it out here.`,
    );
  return {
    id: crypto.randomUUID(),
    kind: 'move',
    title: entry.name,
    character: entry.id,
    base: entry.head ?? '',
    input: {
      target: { id: skeleton.id, title: skeleton.title },
      limit: entry.wants?.limits.influences ?? 4,
      weights,
    },
  };
}

/** Asks for several characters of the shelf to be moved onto one skeleton; the house does it on its own from there. */
export function MoveSeveral({ entries, onClose }: { entries: readonly ShelfFigure[]; onClose: () => void }) {
  const router = useRouter();
  const movable = entries.filter((entry) => entry.head && entry.bones !== 0);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [target, setTarget] = useState(SKELETONS[0].id);
  const [weights, setWeights] = useState<'example' | 'rules'>('example');
  const [isAsking, setAsking] = useState(false);
  const [error, setError] = useState<string | null>(null);
  const list = movable.filter((figure) => chosen.has(figure.id));
  const run = async () => {
    setAsking(true);
    setError(null);
    try {
      const parts = list.map((figure) => partOf(figure, target, weights));
      const onto =
        SKELETONS.find((skeleton) => skeleton.id === target)?.title ?? 'what each one’s brief wants';
      const title = `${parts.length === 1 ? parts[0].title : `${parts.length} characters`} onto ${onto}`;
      const { id } = await call(askForJobs, { id: crypto.randomUUID(), title, by: '', parts });
      router.push(`/work?job=${id}`);
    } catch (error) {
      setError(messageOf(error));
      setAsking(false);
    }
  };
  const toggle = (id: string) => {
    const next = new Set(chosen);
    if (!next.delete(id)) next.add(id);
    setChosen(next);
  };
  return (
    <PaperDialog
      title="Move several onto one skeleton"
      about="Each with the crosswalk that is saved for its skeleton, or one nearly like it; else with what is suggested. Every move is a step of its own, and can be undone. It goes on when this page is closed."
      width={860}
      onClose={onClose}
    >
      <div className="mt-3 flex flex-wrap items-center gap-3 text-[13px]">
        <label className="flex items-center gap-2">
          onto
          <select
            aria-label="Skeleton to move to"
            value={target}
            onChange={(event) => setTarget(event.target.value)}
            className="h-8 rounded-[7px] border border-rule bg-sheet px-2 font-semibold"
          >
            <option value={AS_BRIEFED}>what each one’s brief wants</option>
            {SKELETONS.map((skeleton) => (
              <option key={skeleton.id} value={skeleton.id}>
                {skeleton.title}
              </option>
            ))}
          </select>
        </label>
        <label className="flex items-center gap-2">
          weights
          <select
            aria-label="Where the weights come from"
            value={weights}
            onChange={(event) => setWeights(event.target.value as 'example' | 'rules')}
            className="h-8 rounded-[7px] border border-rule bg-sheet px-2 font-semibold"
          >
            <option value="example">by example</option>
            <option value="rules">by the rules alone</option>
          </select>
        </label>
        <Button
          small
          kind="quiet"
          onClick={() =>
            setChosen(new Set(list.length === movable.length ? [] : movable.map((figure) => figure.id)))
          }
        >
          {list.length === movable.length ? 'None' : 'All'}
        </Button>
      </div>
      <Choose movable={movable} chosen={chosen} onToggle={toggle} />
      {error && (
        <p role="alert" className="mt-3 text-[13px] text-stops">
          {error}
        </p>
      )}
      <div className="mt-4 flex justify-end gap-2">
        <Button kind="leaf" disabled={list.length === 0 || isAsking} onClick={() => void run()}>
          Move {list.length === 1 ? 'one' : list.length}
        </Button>
      </div>
    </PaperDialog>
  );
}

function Choose({
  movable,
  chosen,
  onToggle,
}: {
  movable: readonly ShelfFigure[];
  chosen: ReadonlySet<string>;
  onToggle: (id: string) => void;
}) {
  return (
    <ul className="mt-2 max-h-[40vh] overflow-y-auto" aria-label="Characters">
      {movable.map((figure) => (
        <li key={figure.id} className="border-b border-rule">
          <label className="flex items-center gap-2.5 py-1.5">
            <input type="checkbox" checked={chosen.has(figure.id)} onChange={() => onToggle(figure.id)} />
            <span className="min-w-0 flex-1 [overflow-wrap:anywhere]">{figure.name}</span>
            <span className="text-[13px] text-soft">{figure.wants?.title}</span>
          </label>
        </li>
      ))}
    </ul>
  );
}
