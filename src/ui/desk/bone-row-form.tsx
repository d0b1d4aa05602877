'use client';

import { type CSSProperties, type FocusEvent, type KeyboardEvent, useId, useRef, useState } from 'react';
import { BONE_KINDS, BONE_KIND_WORDS, type BoneKind } from '@/core/character/bone-kinds';
import { applyRemedy } from '../state/steps';
import type { BoneRow } from './bone-row';

/**
 * A row of the table as fields: the name, what the bone is for, what it hangs under. Enter does what was changed, each as a
 * step of its own; Escape, or leaving the row, takes it back.
 */
export function BoneRowForm({
  row,
  bones,
  style,
  onEnd,
}: {
  row: BoneRow;
  bones: readonly BoneRow[];
  style: CSSProperties;
  onEnd: () => void;
}) {
  const [name, setName] = useState(row.name);
  const [kind, setKind] = useState<BoneKind>(row.kind);
  const [parent, setParent] = useState(row.parent);
  const [refused, setRefused] = useState(false);
  const box = useRef<HTMLFormElement>(null);
  const list = useId();
  const under = bones.find((bone) => bone.name === parent)?.node;
  const isHung = parent === row.parent || under !== undefined;
  const commit = async () => {
    if (name.trim() === '' || !isHung) {
      setRefused(true);
      return;
    }
    onEnd();
    const steps: (readonly [string, Record<string, unknown>, string])[] = [];
    if (kind !== row.kind)
      steps.push(['bone-kind', { bones: [row.node], kind }, `${row.name} is ${BONE_KIND_WORDS[kind]}`]);
    if (parent !== row.parent)
      steps.push(['re-hang', { bone: row.node, parent: under }, `Hang ${row.name} under ${parent}`]);
    if (name.trim() !== row.name)
      steps.push(['rename', { table: { [row.name]: name.trim() } }, `Rename ${row.name} to ${name.trim()}`]);
    // The name goes last: the others speak of the bone by its place.
    for (const [remedy, params, title] of steps) if (!(await applyRemedy(remedy, params, title))) return;
  };
  const onKeyDown = (event: KeyboardEvent) => {
    event.stopPropagation();
    if (event.key === 'Escape') onEnd();
  };
  const onBlur = (event: FocusEvent) => {
    if (!box.current?.contains(event.relatedTarget as Node | null)) onEnd();
  };
  const field = {
    onKeyDown,
    onBlur,
    className: 'mono h-[22px] w-full min-w-0 rounded border border-rule bg-sheet px-1',
  };
  return (
    <form
      ref={box}
      aria-label={`Edit ${row.name}`}
      style={style}
      className="grid grid-cols-[1.3fr_110px_1.3fr_auto] items-center gap-2.5 bg-damson-wash"
      onSubmit={(event) => {
        event.preventDefault();
        void commit();
      }}
    >
      <input
        // Whoever asked to edit the row begins with its name.
        autoFocus
        aria-label="Name"
        aria-invalid={refused && name.trim() === ''}
        value={name}
        onChange={(event) => setName(event.target.value)}
        onFocus={(event) => event.target.select()}
        {...field}
      />
      <select
        aria-label="It is"
        value={kind}
        onChange={(event) => setKind(event.target.value as BoneKind)}
        {...field}
      >
        {BONE_KINDS.map((word) => (
          <option key={word} value={word}>
            {BONE_KIND_WORDS[word]}
          </option>
        ))}
      </select>
      <input
        aria-label="Hangs under"
        aria-invalid={refused && !isHung}
        list={list}
        value={parent}
        placeholder="nothing"
        onChange={(event) => setParent(event.target.value)}
        {...field}
      />
      <datalist id={list}>
        {bones
          .filter((bone) => bone.node !== row.node)
          .map((bone) => (
            <option key={bone.node}>{bone.name}</option>
          ))}
      </datalist>
      <button type="submit" tabIndex={-1} className="sr-only">
        Keep
      </button>
      <span className="text-[12.5px] text-soft" role={refused ? 'alert' : undefined}>
        {refused && !isHung ? `No bone is called “${parent}”.` : 'Enter keeps, Escape leaves'}
      </span>
    </form>
  );
}
