'use client';

import { FoldHorizontal, Sprout } from 'lucide-react';
import { useCallback, useDeferredValue, useEffect, useMemo } from 'react';
import { GRAVITIES, type Finding, type Gravity } from '@/core/contracts/finding';
import { BONE_KIND_WORDS } from '@/core/character/bone-kinds';
import {
  type BoneFilter,
  boneGroups,
  bonesNamed,
  inverted,
  otherSide,
  wholeChains,
  withAbove,
  withBelow,
} from '@/core/rooms/skeleton/choosing';
import type { TreeBone } from '@/core/rooms/skeleton/tree/bones';
import { drawTree } from '@/core/rooms/skeleton/tree/layout';
import { Button, Chip } from '../../../kit/button';
import { FindField } from '../../../kit/find-field';
import { IconButton } from '../../../kit/icon-button';
import { chooseBone, choosePicked } from '../../../state/choose';
import { NOTHING_PICKED } from '../../../state/selection';
import { desk, useDesk } from '../../../state/store';
import { TreeDrawn } from './tree-drawing';
import { lookAtTreeOf, useTreeView } from './tree-view';

const NO_BONES: readonly TreeBone[] = [];
const NONE: ReadonlySet<number> = new Set();

/** Chooses several bones, or one. */
function chooseBones(nodes: ReadonlySet<number>): void {
  choosePicked({ ...NOTHING_PICKED, bones: nodes });
}

/** More bones at once are not drawn: nobody could find anything among them, and the page would stand still. */
const MOST_DRAWN = 3000;

/** A finding about a larger share of the bones is marked at none of them. */
const MARKED = 0.4;

const bonesOfFinding = ({ elements }: Finding): number[] =>
  elements.flatMap((element) => (element.kind === 'bone' ? [...element.ids] : []));

/** What is chosen of the tree: bones by hand, or those that the chosen finding speaks of. */
function useChosenBones(count: number): ReadonlySet<number> {
  const bone = useDesk((state) => state.bone);
  const picked = useDesk((state) => state.picked.bones);
  const last = useDesk((state) => state.lastChosen);
  const chosen = useDesk((state) => state.chosen);
  const audited = useDesk((state) => state.audited);
  return useMemo(() => {
    if (last === 'picked') return picked;
    if (last === 'bone') return bone >= 0 ? new Set([bone]) : NONE;
    const finding = audited?.find(({ key }) => key === chosen);
    const nodes = finding ? bonesOfFinding(finding) : [];
    // What is said of nearly all singles out none of them.
    return nodes.length > MARKED * count ? NONE : new Set(nodes);
  }, [bone, picked, last, chosen, audited, count]);
}

/** The worst that is open at each bone. */
function useOpen(count: number): ReadonlyMap<number, Gravity> {
  const findings = useDesk((state) => state.findings);
  return useMemo(() => {
    const out = new Map<number, Gravity>();
    const add = (finding: Finding) => {
      const nodes = bonesOfFinding(finding);
      if (nodes.length > MARKED * count) return;
      for (const node of nodes) if (!out.has(node)) out.set(node, finding.gravity);
    };
    for (const gravity of GRAVITIES)
      for (const finding of findings ?? [])
        if (finding.room === 'skeleton' && finding.gravity === gravity) add(finding);
    return out;
  }, [findings, count]);
}

/** The tree of the bones as a picture, beside the stage. */
export function TreePanel() {
  const isOpen = useTreeView((state) => state.isOpen);
  const hasBones = useDesk((state) => (state.figure?.bones.length ?? 0) > 0);
  if (!hasBones) return null;
  if (!isOpen)
    return (
      <div className="shrink-0 border-l border-rule bg-sheet p-1.5">
        <IconButton label="Show the tree" onClick={() => useTreeView.setState({ isOpen: true })}>
          <Sprout size={15} />
        </IconButton>
      </div>
    );
  return <OpenTree />;
}

function OpenTree() {
  const id = useDesk((state) => state.record?.id ?? null);
  useEffect(() => lookAtTreeOf(id), [id]);
  const bones = useDesk((state) => state.figure?.tree ?? NO_BONES);
  const sets = useDesk((state) => state.character?.sets);
  const folds = useTreeView((state) => state.folds);
  const shown = useTreeView((state) => state.shown);
  const find = useDeferredValue(useTreeView((state) => state.find));
  const chosen = useChosenBones(bones.length);
  const open = useOpen(bones.length);
  const byNode = useMemo(() => new Map(bones.map((bone) => [bone.node, bone])), [bones]);
  const groups = useMemo<BoneFilter[]>(
    () => [
      ...boneGroups(bones),
      ...(sets ?? []).flatMap((set) =>
        set.bones.length > 0
          ? [{ id: `set ${set.name}`, title: `in “${set.name}”`, nodes: new Set(set.bones) }]
          : [],
      ),
    ],
    [bones, sets],
  );
  const only = groups.find(({ id }) => id === shown)?.nodes ?? null;
  const drawing = useMemo(() => drawTree(bones, { folds, only }), [bones, folds, only]);
  const found = useMemo(() => new Set(bonesNamed(bones, find).map(({ node }) => node)), [bones, find]);
  const marks = useMemo(() => ({ open, chosen, found }), [open, chosen, found]);
  const choose = useCallback((node: number, isAdded: boolean) => {
    if (!isAdded) {
      chooseBone(node);
      return;
    }
    const { picked, bone, lastChosen } = desk();
    const before = lastChosen === 'bone' && bone >= 0 ? [bone] : picked.bones;
    const next = new Set(before);
    if (!next.delete(node)) next.add(node);
    chooseBones(next);
  }, []);
  const namesSides = bones.some(({ isSideNamed }) => isSideNamed);
  return (
    <section
      aria-label="The tree"
      className="flex w-[56%] min-w-[380px] max-w-[620px] shrink-0 flex-col border-l border-rule bg-sheet max-[1000px]:h-1/2 max-[1000px]:w-full max-[1000px]:max-w-none max-[1000px]:border-l-0 max-[1000px]:border-t"
    >
      <TreeHead bones={bones} groups={groups} found={found} />
      {namesSides && (
        <div className="mono flex justify-between px-3 text-[11px]! text-soft" aria-hidden="true">
          <span>
            <span style={{ color: 'var(--right)' }}>•</span> right
          </span>
          <span>
            left <span style={{ color: 'var(--left)' }}>′</span>
          </span>
        </div>
      )}
      <div className="scroll min-h-0 flex-1 overflow-auto">
        {drawing.bones.length > MOST_DRAWN ? (
          <p className="px-3 py-2 text-[13px] text-soft">
            {drawing.bones.length} bones are more than a picture can show: choose a kind above, or find some
            by name in the table of bones below.
          </p>
        ) : (
          <TreeDrawn drawing={drawing} bones={byNode} marks={marks} choose={choose} />
        )}
      </div>
      <ChoiceLine bones={bones} chosen={chosen} />
    </section>
  );
}

/** Which bones are shown, which are looked for, and a press for all of them. */
function TreeHead({
  bones,
  groups,
  found,
}: {
  bones: readonly TreeBone[];
  groups: readonly BoneFilter[];
  found: ReadonlySet<number>;
}) {
  const find = useTreeView((state) => state.find);
  const shown = useTreeView((state) => state.shown);
  const isFinding = find.trim() !== '';
  const meant = isFinding ? found : (groups.find(({ id }) => id === shown)?.nodes ?? NONE);
  return (
    <form
      className="flex flex-wrap items-center gap-2 px-3 pb-1 pt-2.5 text-[12.5px] text-soft"
      onSubmit={(event) => {
        event.preventDefault();
        if (meant.size > 0) chooseBones(meant);
      }}
    >
      <select
        aria-label="Which bones are shown"
        value={groups.some(({ id }) => id === shown) ? (shown ?? '') : ''}
        onChange={(event) => useTreeView.setState({ shown: event.target.value || null })}
        className="h-7 min-w-0 max-w-[170px] rounded-full border border-rule bg-sheet px-2 text-ink"
      >
        <option value="">All {bones.length} bones</option>
        {groups.map(({ id, title, nodes }) => (
          <option key={id} value={id}>
            {nodes.size} {title}
          </option>
        ))}
      </select>
      <FindField
        label="Find bones by name"
        hint="name, or coat_*_end"
        value={find}
        onChange={(text) => useTreeView.setState({ find: text })}
        className="h-7 w-36"
      />
      {(isFinding || meant.size > 0) && (
        <>
          <span role="status">
            {meant.size} of {bones.length}
          </span>
          <Button small type="submit" disabled={meant.size === 0}>
            Choose them
          </Button>
        </>
      )}
      <span className="flex-1" />
      <IconButton label="Put the tree away" onClick={() => useTreeView.setState({ isOpen: false })}>
        <FoldHorizontal size={15} />
      </IconButton>
    </form>
  );
}

/** How a choice goes on from bones: words, what it does, and how. */
const WAYS_ON = [
  ['Below', 'And all that hangs on it', withBelow],
  ['Above', 'And all that it hangs on', withAbove],
  ['Chain', 'The whole chain, from fork to fork', wholeChains],
  ['Other side', 'The bones opposite instead', otherSide],
  ['Invert', 'All others instead', inverted],
] as const;

/** What is chosen, and how the choice goes on from it. */
function ChoiceLine({ bones, chosen }: { bones: readonly TreeBone[]; chosen: ReadonlySet<number> }) {
  const only = chosen.size === 1 ? bones.find(({ node }) => chosen.has(node)) : undefined;
  if (chosen.size === 0)
    return (
      <p className="border-t border-rule px-3 py-1.5 text-[12.5px] text-soft">
        Press a bone; with Shift one more. Space folds a branch.
      </p>
    );
  return (
    <div className="flex flex-wrap items-center gap-1 border-t border-rule px-3 py-1.5 text-[12.5px]">
      {only && (
        <p className="basis-full text-soft">
          {BONE_KIND_WORDS[only.kind]}: {only.why}
        </p>
      )}
      <span role="status" className="mono mr-1 min-w-0 max-w-[150px] truncate" title={only?.name}>
        {only ? only.name : `${chosen.size} bones`}
      </span>
      {WAYS_ON.map(([word, title, widen]) => {
        const next = widen(bones, chosen);
        const isSame = next.size === chosen.size && [...next].every((node) => chosen.has(node));
        return (
          <Chip
            key={word}
            on={false}
            title={title}
            disabled={next.size === 0 || isSame}
            onClick={() => chooseBones(next)}
          >
            {word}
          </Chip>
        );
      })}
    </div>
  );
}
