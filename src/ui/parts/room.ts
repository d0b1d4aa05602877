import type { Character } from '@/core/character/model';
import type { LucideIcon } from 'lucide-react';
import type { ComponentType } from 'react';
import type { RemedyCall } from '@/core/contracts/finding';
import type { RoomId } from '@/core/contracts/rooms';
import type { MakeLayer } from '../stage/layers/layer';
import type { DrawingSource } from '../stage/overlay';
import type { MakeTool } from '../stage/tools/tool';

/** A shortcut of the house. */
export interface Key {
  /** As it is printed on the sheet of keys. */
  readonly keys: string;
  readonly does: string;
  run(): void;
  match(event: KeyboardEvent): boolean;
}

/** A tool as the tray offers it. */
export interface ToolDefinition {
  readonly id: string;
  readonly title: string;
  /** What to do with it, in a sentence. */
  readonly hint: string;
  readonly icon: LucideIcon;
  /** The letter that takes it. */
  readonly letter: string;
  readonly make: MakeTool;
  /** Its settings, shown while it is in the hand. */
  readonly Panel?: ComponentType;
  /** They need more width than most. */
  readonly isPanelWide?: boolean;
}

/** A page of the notebook besides the findings. */
export interface NotebookPageDefinition {
  readonly id: string;
  readonly title: string;
  readonly Page: ComponentType;
}

/** A table of a room in the drawer below the stage, beside the ledger and the bones. */
export interface DrawerDefinition {
  readonly id: string;
  readonly title: string;
  readonly Panel: ComponentType;
}

/**
 * A room of the desk: what it shows and what one can do in it. A new one is its own folder and one line in
 * the list of rooms.
 */
export interface Room {
  readonly id: RoomId;
  readonly title: string;
  readonly hint: string;
  /** Told where nothing is open in it. */
  readonly empty: string;
  /** Why it has nothing to examine of a character, as a sentence; null where it has. */
  readonly idle?: (character: Character) => string | null;
  /** It has no checks of its own: nothing open says nothing about it. */
  readonly isUnaudited?: boolean;
  /** Its checks move the figure: nothing is known of it until that was done. */
  readonly isInMotion?: boolean;
  /** In place of the notebook. */
  readonly Page?: ComponentType;
  /** Below the stage. */
  readonly Below?: ComponentType;
  /** Beside the stage, on its own ground. */
  readonly Beside?: ComponentType;
  /** Over a corner of the stage. */
  readonly Over?: ComponentType;
  readonly pages?: readonly NotebookPageDefinition[];
  readonly drawers?: readonly DrawerDefinition[];
  /** Remedies with a form of their own, by remedy. */
  readonly forms?: Readonly<Record<string, ComponentType<{ call: RemedyCall }>>>;
  /** The stage stands in a column of its own, beside the room's page. */
  readonly wide?: boolean;
  readonly tools: readonly ToolDefinition[];
  readonly keys: readonly Key[];
  enter?(): void;
  leave?(): void;
  /** Takes back the last change that the room itself keeps, and makes it again. */
  undo?(): void;
  redo?(): void;
  /** What it draws on the stage among the figure, and is taken off when one leaves it. */
  readonly layers?: readonly MakeLayer[];
  /** What it draws over the picture in plain lines. */
  readonly drawing?: DrawingSource;
}

/** A plain letter, without Shift. */
export const plainKey = (letter: string) => (event: KeyboardEvent) =>
  event.key.toLowerCase() === letter.toLowerCase() && !event.shiftKey;
