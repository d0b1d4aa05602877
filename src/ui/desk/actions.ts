import { roomById } from '../rooms/list';
import { redoTarget, undoTarget } from '../state/document';
import { redoDraft, undoDraft } from '../state/draft';
import { canRedoPose, canUndoPose, redoPose, undoPose } from '../state/pose';
import { moveTo } from '../state/steps';
import { desk, setDesk } from '../state/store';

/** Takes back what was changed last in the room, what the hand did last, the last pose since a step, or else the last step. */
export function undo(): void {
  const { draft, record, ownWay, room } = desk();
  if (ownWay?.canUndo) roomById(room).undo?.();
  else if (draft && draft.steps > 0) void undoDraft();
  else if (canUndoPose()) undoPose();
  else void moveTo(undoTarget(record), 'Undone');
}

/** Does again what was taken back last. */
export function redo(): void {
  const { draft, record, ownWay, room } = desk();
  if (ownWay?.canRedo) roomById(room).redo?.();
  else if (draft?.canRedo) void redoDraft();
  else if (canRedoPose()) redoPose();
  else void moveTo(redoTarget(record), 'Done again');
}

/** Asks for the reason why the chosen finding is accepted, where one is chosen that is open. */
export function openWaiving(): void {
  const { findings, chosen } = desk();
  if (findings?.some((finding) => finding.key === chosen)) setDesk({ dialog: 'waive' });
}

export const toggleDrawer = (drawer: string): void =>
  setDesk((state) => ({ drawer: state.drawer === drawer ? null : drawer }));
