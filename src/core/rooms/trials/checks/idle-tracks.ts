import { object } from 'yup';
import { type Found, defineCheck } from '../../../contracts/check';
import { boneElements } from '../../../contracts/finding';
import { movesAnything } from '../../../motion/clips/idle-tracks';
import { theClip } from '../clips';

/** Nodes that are told by name, at most. */
const TOLD = 3;

/** Every track of a clip moves something that is seen. */
export const idleTracksCheck = defineCheck({
  id: 'idle-tracks',
  room: 'trials',
  title: 'Tracks that move nothing',
  why: 'They are left over from controls or from bones whose mesh is gone: they cost memory on every machine, and hide what a clip does.',
  waiverReasons: ['Something is hung on them in the game.'],
  settings: object({}),
  reads: ['tree', 'names', 'clips', 'shows', 'joints', 'weights', 'morphs', 'carried'],
  run(character): Found[] {
    const moves = movesAnything(character);
    return character.clips.flatMap((clip, index): Found[] => {
      const idle = clip.channels.filter((channel) => !moves(channel));
      // Where nothing of a clip moves anything, the meshes it was made for are elsewhere: that is no litter.
      if (idle.length === 0 || idle.length === clip.channels.length) return [];
      const nodes = [...new Set(idle.map(({ node }) => node))];
      const names = nodes.slice(0, TOLD).map((node) => `“${character.nodes[node]?.name ?? node}”`);
      const more = nodes.length > TOLD ? ` and ${nodes.length - TOLD} more` : '';
      const tracks =
        idle.length === 1 ? 'a track that moves nothing' : `${idle.length} tracks that move nothing`;
      return [
        {
          gravity: 'note',
          subject: theClip(character, index),
          message: `“${clip.name}” has ${tracks}, on ${names.join(', ')}${more}`,
          measured: idle.length,
          expected: 0,
          unit: 'tracks',
          count: idle.length,
          elements: [boneElements(nodes.filter((node) => character.nodes[node]?.kind === 'bone'))],
          evidence: [
            {
              label: 'Tracks that move nothing',
              now: idle.length,
              brief: 0,
              unit: `of ${clip.channels.length}`,
            },
          ],
          remedies: [{ id: 'drop-idle-tracks', params: { clip: index } }],
        },
      ];
    });
  },
});
