'use client';

import clsx from 'clsx';
import { Eye, EyeOff, Focus, Lock, LockOpen, Plus } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import type { Belonging } from '@/core/rooms/placement/scene';
import { unitWord } from '@/core/contracts/units';
import { Button } from '../../kit/button';
import { deskWorker, setLook, useDesk } from '../../desk/store';
import { AddFiles } from './add-files';

const GROUPS: readonly {
  readonly of: readonly Belonging[];
  readonly title: string;
  readonly hint: string;
}[] = [
  { of: ['body'], title: 'Bodies', hint: 'what is bound to bones, and the parts of a machine' },
  { of: ['prop'], title: 'Props', hint: 'they follow the character when it is rescaled' },
  { of: ['bone'], title: 'Bones', hint: '' },
  { of: ['holder'], title: 'Holders', hint: 'nodes that only hold others' },
  { of: ['stray'], title: 'Strays', hint: 'they belong to nobody' },
];
const TINTS = ['', '#7fa08c', '#c9a24b', '#b56a55', '#8f7fa8', '#6f93b0'] as const;
const FEW = 12;
const MANY = 400;

/** The character's nodes as groups: show, hide, lock, isolate, tint; and bringing in more of it. */
export function ScenePage() {
  const { character, hidden, locked, isolated, tints } = useDesk();
  const [scene, setScene] = useState<{
    of: readonly Belonging[];
    strays: ReadonlyMap<number, string>;
  } | null>(null);
  const [opened, setOpened] = useState<ReadonlySet<string>>(new Set(['Bodies', 'Props', 'Strays']));
  const [adding, setAdding] = useState<File[] | null>(null);
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => {
    let on = true;
    void deskWorker()
      .scene()
      .then((s) => {
        if (on) setScene({ of: s.of, strays: new Map(s.strays) });
      });
    return () => {
      on = false;
    };
  }, [character]);
  if (!character || !scene || scene.of.length !== character.nodes.length)
    return <p className="px-[18px] py-3 text-soft">looking …</p>;
  const toggled = (set: ReadonlySet<number>, nodes: readonly number[], on: boolean) => {
    const out = new Set(set);
    for (const n of nodes) {
      if (on) out.add(n);
      else out.delete(n);
    }
    return out;
  };
  const sources = [character.source, ...(character.added ?? [])];
  const icon = 'grid h-6 w-6 place-items-center rounded text-soft hover:bg-wash hover:text-ink';
  const tools = (nodes: readonly number[], name: string) => {
    const off = nodes.every((n) => hidden.has(n));
    const shut = nodes.every((n) => locked.has(n));
    const alone = isolated !== null && nodes.every((n) => isolated.has(n)) && isolated.size === nodes.length;
    const tint = TINTS.indexOf((tints.get(nodes[0]) ?? '') as (typeof TINTS)[number]);
    const next = () => {
      const colour = TINTS[(Math.max(0, tint) + 1) % TINTS.length];
      const out = new Map(tints);
      for (const n of nodes) {
        if (colour) out.set(n, colour);
        else out.delete(n);
      }
      setLook({ tints: out });
    };
    const paints = nodes.some((n) => character.nodes[n].mesh >= 0);
    return (
      <span className="flex shrink-0 items-center">
        {paints && (
          <button
            type="button"
            className={icon}
            aria-label={`Tint ${name}`}
            title="Tint: the next colour"
            onClick={next}
          >
            <span
              className="h-3.5 w-3.5 rounded-full border border-bark"
              style={{ background: TINTS[tint] || 'var(--clay-light)' }}
            />
          </button>
        )}
        <button
          type="button"
          className={icon}
          aria-label={`Isolate ${name}`}
          aria-pressed={alone}
          title="Show this alone"
          onClick={() => setLook({ isolated: alone ? null : new Set(nodes) })}
        >
          <Focus size={14} className={alone ? 'text-damson' : ''} />
        </button>
        <button
          type="button"
          className={icon}
          aria-label={`Lock ${name}`}
          aria-pressed={shut}
          title="Lock: seen, but not found under the pointer"
          onClick={() => setLook({ locked: toggled(locked, nodes, !shut) })}
        >
          {shut ? <Lock size={13} className="text-damson" /> : <LockOpen size={13} />}
        </button>
        <button
          type="button"
          className={icon}
          aria-label={`${off ? 'Show' : 'Hide'} ${name}`}
          aria-pressed={off}
          title={off ? 'Show' : 'Hide'}
          onClick={() => setLook({ hidden: toggled(hidden, nodes, !off) })}
        >
          {off ? <EyeOff size={14} className="text-damson" /> : <Eye size={14} />}
        </button>
      </span>
    );
  };
  return (
    <div className="px-[18px] pb-8 pt-2.5">
      <div className="flex items-center gap-2">
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
          onChange={(e) => {
            setAdding([...(e.target.files ?? [])]);
            e.target.value = '';
          }}
        />
      </div>
      {adding && adding.length > 0 && <AddFiles files={adding} onClose={() => setAdding(null)} />}
      {GROUPS.map((g) => {
        const nodes = character.nodes.flatMap((_, i) => (g.of.includes(scene.of[i]) ? [i] : []));
        if (nodes.length === 0) return null;
        const open = opened.has(g.title);
        return (
          <section key={g.title} aria-label={g.title} className="mt-3">
            <div className="flex items-center gap-2 border-b border-rule pb-0.5">
              <button
                type="button"
                aria-expanded={open}
                onClick={() =>
                  setOpened((o) => {
                    const out = new Set(o);
                    if (!out.delete(g.title)) out.add(g.title);
                    return out;
                  })
                }
                className="title min-w-0 flex-1 text-left text-[16px]"
              >
                {g.title} <span className="mono text-soft">{nodes.length}</span>
              </button>
              {tools(nodes, `all ${g.title.toLowerCase()}`)}
            </div>
            {open && g.hint && <p className="pt-0.5 text-[12px] text-soft">{g.hint}</p>}
            {open && (
              <ul>
                {nodes.slice(0, g.title === 'Bones' ? FEW : MANY).map((i) => {
                  const n = character.nodes[i];
                  const source = sources[n.source ?? 0];
                  return (
                    <li
                      key={i}
                      className={clsx(
                        'flex items-center gap-2 border-b border-rule/60 py-0.5',
                        hidden.has(i) && 'opacity-60',
                      )}
                    >
                      <span className="min-w-0 flex-1 leading-tight">
                        <span className="mono block truncate" title={n.name}>
                          {n.name || `node ${i}`}
                        </span>
                        {(scene.strays.get(i) || sources.length > 1) && (
                          <span
                            className="block truncate text-[11.5px] text-soft"
                            title={source?.files[0]?.name}
                          >
                            {[
                              scene.strays.get(i),
                              sources.length > 1
                                ? `${source?.files[0]?.name ?? source?.format}, ${unitWord(source?.unitMetres ?? 1)}, ${source?.upAxis ?? 'y'} up`
                                : '',
                            ]
                              .filter(Boolean)
                              .join(' · ')}
                          </span>
                        )}
                      </span>
                      {tools([i], n.name || `node ${i}`)}
                    </li>
                  );
                })}
                {g.title !== 'Bones' && nodes.length > MANY && (
                  <li className="py-1 text-[12.5px] text-soft">
                    and {nodes.length - MANY} more, which the buttons of the group take along
                  </li>
                )}
                {g.title === 'Bones' && nodes.length > FEW && (
                  <li className="py-1 text-[12.5px] text-soft">
                    and {nodes.length - FEW} more;{' '}
                    <button
                      type="button"
                      className="font-semibold text-leaf underline"
                      onClick={() => useDesk.setState({ drawer: 'bones' })}
                    >
                      all in the table of bones
                    </button>
                  </li>
                )}
              </ul>
            )}
          </section>
        );
      })}
      <p className="mt-3 text-[12.5px] text-soft">
        Read from{' '}
        {sources
          .map((s) => `${s.files[0]?.name ?? s.format} (${unitWord(s.unitMetres)}, ${s.upAxis ?? 'y'} up)`)
          .join('; ')}
        .
      </p>
    </div>
  );
}
