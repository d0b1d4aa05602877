/** A pose made the rest of a character. */
import { freshBinds, withShapeOf } from '../character/bind-anew';
import { branchOf } from '../character/hierarchy';
import { type Channel, type Character, type SceneNode, replaceAt } from '../character/model';
import { withLocal } from '../character/rehang';
import { inverseOr, times } from '../geometry/matrix';
import { type Turns, posedWorld } from './pose';

/** The character with a pose as its rest: nodes, points of the skins concerned, and their binds. */
export function boundInPose(character: Character, turns: Turns): Character {
  const world = posedWorld(character, turns);
  const changed = new Map<number, SceneNode>();
  for (const i of turns.keys()) {
    const parent = character.nodes[i].parent;
    changed.set(
      i,
      withLocal(
        character.nodes[i],
        parent < 0
          ? world.slice(i * 16, i * 16 + 16)
          : times(inverseOr(world, parent * 16), world, 0, i * 16),
      ),
    );
  }
  const moves = branchOf(character.nodes, turns.keys());
  let out = character;
  character.skins.forEach((skin, i) => {
    if (!skin.joints.some((j) => moves[j])) return;
    out = withShapeOf(out, i, world);
    out = {
      ...out,
      skins: out.skins.map((otherSkin, k) =>
        k === i ? { ...otherSkin, inverseBinds: freshBinds(otherSkin.joints, world) } : otherSkin,
      ),
    };
  });
  const nodes = replaceAt(
    out.nodes,
    new Map([...changed].map(([i, node]) => [i, { ...node, mesh: out.nodes[i].mesh }])),
  );
  // A clip that does not turn such a bone itself found it at its old rest; it is told so now.
  const clips = character.clips.map((clip) => {
    const still = [...changed.keys()].filter(
      (i) => !clip.channels.some((ch) => ch.node === i && ch.path === 'rotation') && clip.channels.length > 0,
    );
    if (still.length === 0) return clip;
    const held = still.map((i): Channel => ({
      node: i,
      path: 'rotation',
      interpolation: 'STEP',
      times: new Float32Array([0]),
      values: Float32Array.from(character.nodes[i].rotation),
    }));
    return { ...clip, channels: [...clip.channels, ...held] };
  });
  return { ...out, nodes, clips };
}
