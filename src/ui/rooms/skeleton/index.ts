import { ROOM_WORDS } from '@/core/contracts/rooms';
import { Move3d } from 'lucide-react';
import type { Room } from '../../parts/room';
import { AxesKey } from './axes-key';
import { AxesLayer } from './axes-layer';
import { JointPanel } from './joint-panel';
import { makeJointTool } from './joint-tool';
import { RenameForm } from './rename-form';
import { TreePanel } from './tree/tree-panel';

export const skeleton: Room = {
  id: 'skeleton',
  title: ROOM_WORDS.skeleton,
  hint: 'Tree and names of the bones',
  empty: 'Tree and names are as the brief wants them. The next room is Surface.',
  forms: { rename: RenameForm },
  layers: [() => new AxesLayer()],
  Over: AxesKey,
  Beside: TreePanel,
  tools: [
    {
      id: 'joint',
      title: 'Move a joint',
      hint: 'Drag a joint. The skin stays where it is; its binds are made anew.',
      icon: Move3d,
      letter: 'H',
      make: makeJointTool,
      Panel: JointPanel,
    },
  ],
  keys: [],
};
