'use client';

import { lengthText } from '@/core/contracts/units';
import { BRUSH_REACH, BRUSH_WORK, type BrushReach, type BrushWork } from '@/core/rooms/weights/painting';
import { type BrushEdge, EDGES } from '@/core/geometry/weight-brush';
import { Button, Chip } from '../../kit/button';
import { countOf } from '../../kit/format';
import { MiddleCut } from '../../kit/middle-cut';
import { Share } from '../../kit/share';
import { useDesk } from '../../state/store';
import { type BrushSettings, useBrush } from './brush-settings';
import { brushRadius, dabOnChosen } from './brush-tool';

/** The bone that is painted, and how: what the brush does, how wide, how fast, towards which weight, how far it reaches. */
export function BrushPanel() {
  const name = useDesk((state) => state.character?.nodes[state.bone]?.name);
  const isHeld = useDesk((state) => state.heldBones.has(state.bone));
  const unit = useDesk((state) => state.brief.unit);
  const settings = useBrush();
  const set = (change: Partial<BrushSettings>) => useBrush.setState(change);
  const isSetting = settings.does !== 'smooth' && settings.does !== 'even';
  return (
    <section aria-label="Brush" className="mb-4 border-b border-rule pb-3 text-[13px]">
      {name === undefined ? (
        <p className="text-soft">No bone is chosen yet: press a twig with the open hand (G).</p>
      ) : (
        <MiddleCut text={name} className="mono mb-1.5 font-semibold" />
      )}
      {isHeld && <p className="mb-1 text-worth">It is held: let it change on the page Who pulls first.</p>}
      <Chips<BrushWork>
        label="What the brush does"
        words={BRUSH_WORK}
        value={settings.does}
        onTake={(does) => set({ does })}
      />
      {isSetting && <Share label="Weight" value={settings.target} onChange={(target) => set({ target })} />}
      <Share label="Strength" value={settings.strength} onChange={(strength) => set({ strength })} />
      <Share
        label="Radius"
        value={settings.size}
        min={0.005}
        max={0.2}
        step={0.005}
        text={lengthText(brushRadius(settings.size), unit)}
        onChange={(size) => set({ size })}
      />
      <Chips<BrushEdge> label="Edge" words={EDGES} value={settings.edge} onTake={(edge) => set({ edge })} />
      {settings.edge !== 'hard' && (
        <Share label="Hard part" value={settings.hardness} onChange={(hardness) => set({ hardness })} />
      )}
      <Chips<BrushReach>
        label="Reach"
        words={BRUSH_REACH}
        value={settings.reach}
        onTake={(reach) => set({ reach })}
      />
      <div className="mt-1.5 flex flex-wrap items-center gap-1">
        <Chip on={settings.isBothSides} onClick={() => set({ isBothSides: !settings.isBothSides })}>
          Both sides at once
        </Chip>
      </div>
      <KeptTo />
    </section>
  );
}

function Chips<T extends string>({
  label,
  words,
  value,
  onTake,
}: {
  label: string;
  words: Readonly<Record<T, string>>;
  value: T;
  onTake: (value: T) => void;
}) {
  return (
    <div className="mt-1.5 flex flex-wrap gap-1" role="group" aria-label={label}>
      {(Object.entries(words) as [T, string][]).map(([id, word]) => (
        <Chip key={id} on={value === id} onClick={() => onTake(id)}>
          {word}
        </Chip>
      ))}
    </div>
  );
}

/** The choice that the brush is kept to, and one dab on all of it: the brush without a pointer. */
function KeptTo() {
  const vertices = useDesk((state) => state.picked.vertices);
  const hasBone = useDesk((state) => state.bone >= 0);
  const count = [...vertices.values()].reduce((sum, ids) => sum + ids.length, 0);
  if (count === 0)
    return <p className="mt-1.5 text-[12px] text-soft">Chosen points keep the brush to them.</p>;
  return (
    <p className="mt-1.5 flex items-center gap-2">
      <span className="flex-1">kept to {countOf(count, 'chosen vertex', 'chosen vertices')}</span>
      <Button small disabled={!hasBone} onClick={dabOnChosen}>
        Dab on them
      </Button>
    </p>
  );
}
