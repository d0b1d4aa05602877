'use client';

import { Eye, EyeOff, Focus, Lock, LockOpen } from 'lucide-react';
import { IconButton } from '../../kit/icon-button';
import { changeLook, isolate } from '../../state/choose';
import { withNodes } from '../../state/look';
import { desk, useDesk } from '../../state/store';

const TINTS: readonly string[] = ['', '#7fa08c', '#c9a24b', '#b56a55', '#8f7fa8', '#6f93b0'];

const isAll = (set: ReadonlySet<number>, nodes: readonly number[]) => nodes.every((node) => set.has(node));

/** Shows nodes alone, or all again. */
function toggleAlone(nodes: readonly number[], isAlone: boolean): void {
  const { character } = desk();
  if (isAlone) changeLook({ isolated: null });
  else
    void isolate({
      nodes: nodes.filter((node) => character?.nodes[node].kind !== 'bone'),
      bones: nodes.filter((node) => character?.nodes[node].kind === 'bone'),
      vertices: new Map(),
      polygons: new Map(),
    });
}

/** What one can do with nodes of the scene: tint, show alone, lock, hide. */
export function NodeTools({ nodes, name }: { nodes: readonly number[]; name: string }) {
  const isHidden = useDesk((state) => isAll(state.hidden, nodes));
  const isLocked = useDesk((state) => isAll(state.locked, nodes));
  const isAlone = useDesk(
    (state) =>
      state.isolated !== null &&
      isAll(state.isolated.nodes, nodes) &&
      state.isolated.nodes.size <= nodes.length,
  );
  const paints = useDesk((state) => nodes.some((node) => (state.character?.nodes[node]?.mesh ?? -1) >= 0));
  return (
    <span className="flex shrink-0 items-center">
      {paints && <TintButton nodes={nodes} name={name} />}
      <IconButton
        label={`Isolate ${name}`}
        title="Show this alone"
        aria-pressed={isAlone}
        onClick={() => toggleAlone(nodes, isAlone)}
      >
        <Focus size={14} className={isAlone ? 'text-damson' : ''} />
      </IconButton>
      <IconButton
        label={`Lock ${name}`}
        title="Lock: seen, but not found under the pointer"
        aria-pressed={isLocked}
        onClick={() => changeLook({ locked: withNodes(desk().locked, nodes, !isLocked) })}
      >
        {isLocked ? <Lock size={13} className="text-damson" /> : <LockOpen size={13} />}
      </IconButton>
      <IconButton
        label={`${isHidden ? 'Show' : 'Hide'} ${name}`}
        title={isHidden ? 'Show' : 'Hide'}
        aria-pressed={isHidden}
        onClick={() => changeLook({ hidden: withNodes(desk().hidden, nodes, !isHidden) })}
      >
        {isHidden ? <EyeOff size={14} className="text-damson" /> : <Eye size={14} />}
      </IconButton>
    </span>
  );
}

function TintButton({ nodes, name }: { nodes: readonly number[]; name: string }) {
  const tint = useDesk((state) => state.tints.get(nodes[0]) ?? '');
  const next = () => {
    const colour = TINTS[(Math.max(0, TINTS.indexOf(tint)) + 1) % TINTS.length];
    const tints = new Map(desk().tints);
    for (const node of nodes) {
      if (colour) tints.set(node, colour);
      else tints.delete(node);
    }
    changeLook({ tints });
  };
  return (
    <IconButton label={`Tint ${name}`} title="Tint: the next colour" onClick={next}>
      <span
        className="h-3.5 w-3.5 rounded-full border border-bark"
        style={{ background: tint || 'var(--clay-light)' }}
      />
    </IconButton>
  );
}
