import type { FigureBone } from '../worker/figure';
import { LatestRequest } from './latest-request';
import { desk, setDesk } from './store';
import { deskWorker } from './worker';

const asking = new LatestRequest();

/** Fetches a bone's weights for the weights surface. */
export async function showWeights(bone: number): Promise<void> {
  const isCurrent = asking.begin();
  const { revision } = desk();
  const weights = await deskWorker().weights(bone);
  if (!isCurrent() || desk().bone !== bone || desk().revision !== revision) return;
  setDesk({ weights: { bone, values: new Map(weights.map(({ node, weights: values }) => [node, values])) } });
}

/** Fetches the strongest bone of every point, for the surface that shows whose each is. */
export async function showOwners(): Promise<void> {
  const { revision } = desk();
  const owners = await deskWorker().owners();
  if (desk().revision === revision) setDesk({ owners });
}

/**
 * The bone of a limb or the trunk that carries most: the one whose picture says something at once. −1 for
 * none.
 */
export function heaviestBone(): number {
  const { figure } = desk();
  if (!figure) return -1;
  const limbs = figure.bones.filter((bone) => !bone.helper && bone.side === 'left' && bone.weight > 0);
  let best: FigureBone | null = null;
  for (const bone of limbs.length > 0 ? limbs : figure.bones)
    if (!best || bone.weight > best.weight) best = bone;
  return best?.node ?? -1;
}
