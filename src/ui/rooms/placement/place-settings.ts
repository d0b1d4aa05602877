import { create } from 'zustand';
import { type NamedPlace, finderOf, namedIn } from '@/core/character/named';
import type { Character } from '@/core/character/model';

/** The settings of the tool that places parts: its own. */
export interface PlaceSettings {
  /** The part that is placed, by its name: the next revision counts otherwise. Null for none. */
  readonly part: NamedPlace | null;
  /** It turns about its own axes instead of the world's. */
  readonly ownAxes: boolean;
}

export const usePlaceSettings = create<PlaceSettings>(() => ({ part: null, ownAxes: false }));

const namesOf = ({ nodes }: Character): string[] => nodes.map(({ name }) => name);

export const choosePart = (character: Character, node: number): void =>
  usePlaceSettings.setState({ part: namedIn(namesOf(character), node) });

/** The node of the part that is placed; −1 where it is not in this character. */
export const partIn = (character: Character, part: NamedPlace | null): number =>
  part ? finderOf(namesOf(character))(part) : -1;
