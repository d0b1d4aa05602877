'use client';

import clsx from 'clsx';
import { Redo2, Undo2 } from 'lucide-react';
import { smallLength } from '@/core/contracts/effects-words';
import { Button } from '../kit/button';
import { numberText } from '../kit/format';
import { IconButton } from '../kit/icon-button';
import { dropDraft, keepDraft, redoDraft, undoDraft } from '../state/draft';
import { useDesk } from '../state/store';
import { takeTool } from '../state/tools';
import type { ToolDefinition } from './room';

/**
 * The tools of the room, at the stage's lower left; beside them what the one in the hand can be told, and the
 * draft.
 */
export function ToolTray({ tools }: { tools: readonly ToolDefinition[] }) {
  const held = useDesk((state) => state.tool);
  const tool = tools.find((tool) => tool.id === held);
  return (
    <>
      <DraftPanel />
      <div className="pointer-events-none absolute bottom-3 left-3 flex items-end gap-2 [&>*]:pointer-events-auto">
        <div
          role="toolbar"
          aria-label="Tools"
          aria-orientation="vertical"
          className="flex flex-col gap-1 rounded-lg border border-rule bg-sheet p-1"
        >
          {tools.map((tool) => (
            <IconButton
              key={tool.id}
              label={tool.title}
              title={`${tool.title} (${tool.letter})`}
              size="large"
              aria-pressed={held === tool.id}
              className={clsx(held === tool.id && '!bg-damson-wash !text-damson')}
              onClick={() => takeTool(tool.id)}
            >
              <tool.icon size={17} />
            </IconButton>
          ))}
        </div>
        {tool && tool.id !== 'turn' && <ToolPanel tool={tool} />}
      </div>
    </>
  );
}

const panel = 'rounded-lg border border-rule bg-sheet px-3 py-2.5';

function ToolPanel({ tool }: { tool: ToolDefinition }) {
  return (
    <section aria-label={tool.title} className={clsx(panel, tool.isPanelWide ? 'w-[280px]' : 'w-[246px]')}>
      <p className="mb-1.5 text-[12.5px] leading-snug text-soft">{tool.hint}</p>
      {tool.Panel && <tool.Panel />}
    </section>
  );
}

/** What the hand has done and is not kept yet. */
function DraftPanel() {
  const draft = useDesk((state) => state.draft);
  const busy = useDesk((state) => state.busy);
  const unit = useDesk((state) => state.brief.unit);
  if (!draft) return null;
  return (
    <section
      aria-label="Not kept yet"
      className={`${panel} absolute right-3 top-3 w-[246px] border-damson/45`}
    >
      <div className="flex items-start gap-1">
        <p className="flex-1 text-[13px]">
          <span className="font-semibold">Not kept yet:</span> {draft.title || 'all taken back'}
          {draft.painted > 0 && (
            <span className="block text-soft" data-testid="painted">
              <span className="mono text-damson">{numberText(draft.painted)}</span>{' '}
              {draft.painted === 1 ? 'point' : 'points'} brushed
            </span>
          )}
          {draft.steps > 0 && (draft.largest > 0 || draft.painted === 0) && (
            <span className="block text-soft">
              farthest move <span className="mono text-damson">{smallLength(draft.largest, unit)}</span>
            </span>
          )}
        </p>
        <IconButton
          label="Take the last one back"
          disabled={draft.steps === 0}
          onClick={() => void undoDraft()}
        >
          <Undo2 size={14} />
        </IconButton>
        <IconButton label="Do it again" disabled={!draft.canRedo} onClick={() => void redoDraft()}>
          <Redo2 size={14} />
        </IconButton>
      </div>
      <div className="mt-2 flex gap-2">
        <Button small kind="leaf" disabled={!!busy || draft.steps === 0} onClick={() => void keepDraft()}>
          Keep as one step
        </Button>
        <Button small disabled={!!busy} onClick={() => void dropDraft()}>
          Take all back
        </Button>
      </div>
    </section>
  );
}
