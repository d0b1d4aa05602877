'use client';

import clsx from 'clsx';
import { Plus } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import type { Character } from '@/core/character/model';
import { unitWord } from '@/core/contracts/units';
import type { Belonging } from '@/core/rooms/placement/scene';
import { Button } from '../../kit/button';
import { MiddleCut } from '../../kit/middle-cut';
import { setDesk, useDesk } from '../../state/store';
import { deskWorker } from '../../state/worker';
import { AddFiles } from './add-files';
import { NodeTools } from './node-tools';

interface Group {
  readonly of: Belonging;
  readonly title: string;
  readonly hint: string;
  /** How many of it are listed. */
  readonly most: number;
}

interface Scene {
  readonly of: readonly Belonging[];
  readonly strays: ReadonlyMap<number, string>;
}

const MANY = 400;

/** Bones have a table of their own. */
const FEW = 12;

const GROUPS: readonly Group[] = [
  { of: 'body', title: 'Bodies', hint: 'what is bound to bones, and the parts of a machine', most: MANY },
  { of: 'prop', title: 'Props', hint: 'they follow the character when it is rescaled', most: MANY },
  { of: 'bone', title: 'Bones', hint: '', most: FEW },
  { of: 'holder', title: 'Holders', hint: 'nodes that only hold others', most: MANY },
  { of: 'stray', title: 'Strays', hint: 'they belong to nobody', most: MANY },
];

const OPEN_AT_FIRST: ReadonlySet<string> = new Set(['Bodies', 'Props', 'Strays']);

/** What every node is to the character on the desk; null until it is there. */
function useScene(): Scene | null {
  const revision = useDesk((state) => state.revision);
  const [scene, setScene] = useState<Scene | null>(null);
  useEffect(() => {
    let isOpen = true;
    void deskWorker()
      .scene()
      .then((scene) => isOpen && setScene({ of: scene.of, strays: new Map(scene.strays) }));
    return () => {
      isOpen = false;
    };
  }, [revision]);
  return scene;
}

/** The character's nodes as groups: show, hide, lock, isolate, tint; and bringing in more of it. */
export function ScenePage() {
  const character = useDesk((state) => state.character);
  const scene = useScene();
  const [opened, setOpened] = useState(OPEN_AT_FIRST);
  if (!character || !scene || scene.of.length !== character.nodes.length)
    return <p className="px-[18px] py-3 text-soft">looking …</p>;
  const toggle = (title: string) => {
    const next = new Set(opened);
    if (!next.delete(title)) next.add(title);
    setOpened(next);
  };
  return (
    <div className="px-[18px] pb-8 pt-2.5">
      <Adding />
      {GROUPS.map((group) => (
        <SceneSection
          key={group.title}
          group={group}
          character={character}
          scene={scene}
          isOpen={opened.has(group.title)}
          onToggle={() => toggle(group.title)}
        />
      ))}
      <p className="mt-3 text-[12.5px] text-soft">Read from {sourcesText(character)}.</p>
    </div>
  );
}

type Source = Character['source'];

const sourcesOf = ({ source, added }: Character): readonly Source[] => [source, ...(added ?? [])];

const sourceName = (source: Source | undefined) => source?.files[0]?.name ?? source?.format ?? '';

const sourcesText = (character: Character) =>
  sourcesOf(character)
    .map((source) => `${sourceName(source)} (${unitWord(source.unitMetres)}, ${source.upAxis ?? 'y'} up)`)
    .join('; ');

function Adding() {
  const [files, setFiles] = useState<readonly File[]>([]);
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button small onClick={() => input.current?.click()}>
        <Plus size={14} />
        Add a mesh, a prop or a skeleton
      </Button>
      <input
        ref={input}
        type="file"
        multiple
        aria-label="Files to add"
        className="hidden"
        onChange={(event) => {
          setFiles([...(event.target.files ?? [])]);
          event.target.value = '';
        }}
      />
      {files.length > 0 && <AddFiles files={files} onClose={() => setFiles([])} />}
    </>
  );
}

function SceneSection({
  group,
  character,
  scene,
  isOpen,
  onToggle,
}: {
  group: Group;
  character: Character;
  scene: Scene;
  isOpen: boolean;
  onToggle: () => void;
}) {
  const nodes = scene.of.flatMap((of, i) => (of === group.of ? [i] : []));
  if (nodes.length === 0) return null;
  return (
    <section aria-label={group.title} className="mt-3">
      <div className="flex items-center gap-2 border-b border-rule pb-0.5">
        <button
          type="button"
          aria-expanded={isOpen}
          onClick={onToggle}
          className="title min-w-0 flex-1 text-left text-[16px]"
        >
          {group.title} <span className="mono text-soft">{nodes.length}</span>
        </button>
        <NodeTools nodes={nodes} name={`all ${group.title.toLowerCase()}`} />
      </div>
      {isOpen && group.hint && <p className="pt-0.5 text-[12px] text-soft">{group.hint}</p>}
      {isOpen && (
        <ul>
          {nodes.slice(0, group.most).map((i) => (
            <SceneRow key={i} node={i} character={character} stray={scene.strays.get(i)} />
          ))}
          {nodes.length > group.most && <More group={group} count={nodes.length - group.most} />}
        </ul>
      )}
    </section>
  );
}

function More({ group, count }: { group: Group; count: number }) {
  return (
    <li className="py-1 text-[12.5px] text-soft">
      {group.of === 'bone' ? (
        <>
          and {count} more;{' '}
          <button
            type="button"
            className="font-semibold text-leaf underline"
            onClick={() => setDesk({ drawer: 'bones' })}
          >
            all in the table of bones
          </button>
        </>
      ) : (
        `and ${count} more, which the buttons of the group take along`
      )}
    </li>
  );
}

function SceneRow({ node, character, stray }: { node: number; character: Character; stray?: string }) {
  const isHidden = useDesk((state) => state.hidden.has(node));
  const sceneNode = character.nodes[node];
  const name = sceneNode.name || `node ${node}`;
  const sources = sourcesOf(character);
  const source = sources[sceneNode.source ?? 0];
  const from =
    sources.length > 1
      ? `${sourceName(source)}, ${unitWord(source?.unitMetres ?? 1)}, ${source?.upAxis ?? 'y'} up`
      : '';
  const about = [stray, from].filter(Boolean).join(' · ');
  return (
    <li className={clsx('flex items-center gap-2 border-b border-rule/60 py-0.5', isHidden && 'opacity-60')}>
      <span className="min-w-0 flex-1 leading-tight">
        <MiddleCut text={name} className="mono" />
        {about && <MiddleCut text={about} className="text-[11.5px] text-soft" />}
      </span>
      <NodeTools nodes={[node]} name={name} />
    </li>
  );
}
