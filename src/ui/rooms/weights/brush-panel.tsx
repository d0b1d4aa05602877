'use client';

import { lengthText } from '@/core/contracts/units';
import { MiddleCut } from '../../kit/middle-cut';
import { Share } from '../../kit/share';
import { useDesk } from '../../state/store';
import { type BrushSettings, useBrush } from './brush-settings';
import { brushRadius } from './brush-tool';

/** The bone that is painted, and how: how wide, how fast, towards which weight. */
export function BrushPanel() {
  const name = useDesk((state) => state.character?.nodes[state.bone]?.name);
  const unit = useDesk((state) => state.brief.unit);
  const settings = useBrush();
  const set = (change: Partial<BrushSettings>) => useBrush.setState(change);
  return (
    <div className="text-[13px]">
      {name === undefined ? (
        <p className="text-soft">No bone is chosen yet: press a twig with the open hand (G).</p>
      ) : (
        <MiddleCut text={name} className="mono mb-1.5 font-semibold" />
      )}
      <Share
        label="Radius"
        value={settings.size}
        min={0.005}
        max={0.2}
        step={0.005}
        text={lengthText(brushRadius(settings.size), unit)}
        onChange={(size) => set({ size })}
      />
      <Share label="Weight" value={settings.target} onChange={(target) => set({ target })} />
      <Share label="Strength" value={settings.strength} onChange={(strength) => set({ strength })} />
      <Share label="Hard part" value={settings.hardness} onChange={(hardness) => set({ hardness })} />
    </div>
  );
}
