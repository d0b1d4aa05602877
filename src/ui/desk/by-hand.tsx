'use client';

import { ChevronRight } from 'lucide-react';
import clsx from 'clsx';
import { useMemo, useState } from 'react';
import type { Character } from '@/core/character/model';
import { fieldsOf } from '@/core/contracts/params';
import type { Params } from '@/core/contracts/remedy';
import { ROOM_WORDS } from '@/core/contracts/rooms';
import { countsOfSet } from '@/core/character/sets';
import {
  type ChosenThings,
  type RemedyByHand,
  callsByHand,
  defaultsOf,
  isNothing,
  remediesByHand,
} from '@/core/house/by-hand';
import { Button } from '../kit/button';
import { countOf, numberText } from '../kit/format';
import { chooseBone, choosePicked, chosenOf } from '../state/choose';
import { NOTHING_PICKED } from '../state/selection';
import { setDesk, useDesk } from '../state/store';
import { ForMany } from '../parts/remedy-box';
import { RemedyFields } from '../parts/remedy-fields';
import type { Room } from '../parts/room';
import { SetsList } from '../parts/sets-list';
import { roomById } from '../rooms/list';

/** The page of every notebook on which all that can be done with what is chosen stands, whether or not it is asked for. */
export function ByHandPage({ room }: { room: Room }) {
  const character = useDesk((state) => state.character);
  const lastChosen = useDesk((state) => state.lastChosen);
  const picked = useDesk((state) => state.picked);
  const bone = useDesk((state) => state.bone);
  const chosenSet = useDesk((state) => state.chosenSet);
  const chosen = useMemo(
    () => chosenOf({ character, lastChosen, picked, bone, chosenSet }),
    [character, lastChosen, picked, bone, chosenSet],
  );
  const offers = useMemo(
    () => (character ? remediesByHand(character, chosen, room.id) : []),
    [character, chosen, room],
  );
  if (!character) return null;
  return (
    <div className="px-[18px] py-3">
      <Choice character={character} chosen={chosen} />
      <SetsList character={character} />
      <ul aria-label="What can be done with it" className="mt-2">
        {offers.map((offer) => (
          <Offer key={offer.remedy.id} offer={offer} room={room} />
        ))}
      </ul>
      {offers.length === 0 && <p className="mt-2 text-soft">No remedy is about what is chosen.</p>}
    </div>
  );
}

/** Names are listed up to so many. */
const LISTED = 4;

function Choice({ character, chosen }: { character: Character; chosen: ChosenThings }) {
  if (isNothing(chosen))
    return (
      <p className="text-[13px] text-soft">
        Nothing is chosen: these are about the whole character. Press a bone, or drag a box over bones, points
        or polygons, for what can be done with those.
      </p>
    );
  const nodes = [
    ...new Set([...chosen.nodes, ...[...chosen.vertices, ...chosen.polygons].map(({ node }) => node)]),
  ];
  const names = nodes.slice(0, LISTED).map((node) => character.nodes[node].name || `node ${node}`);
  const more = nodes.length - names.length;
  return (
    <div className="flex items-start gap-2">
      <p className="min-w-0 flex-1 text-[13px] [overflow-wrap:anywhere]">
        <span className="font-semibold">{countText(character, chosen)}</span>{' '}
        <span className="mono text-soft">
          {names.join(', ')}
          {more > 0 && ` and ${numberText(more)} more`}
        </span>
      </p>
      <Button small kind="quiet" onClick={letGo}>
        Choose nothing
      </Button>
    </div>
  );
}

function letGo(): void {
  choosePicked(NOTHING_PICKED);
  chooseBone(-1);
}

function countText(character: Character, { nodes, vertices, polygons, sets }: ChosenThings): string {
  const bones = nodes.filter((node) => character.nodes[node].kind === 'bone').length;
  const counts = countsOfSet(character, { name: '', bones: [], vertices, polygons });
  const words = [
    sets.length > 0 && `set “${character.sets[sets[0]].name}”`,
    bones > 0 && countOf(bones, 'bone'),
    nodes.length > bones && countOf(nodes.length - bones, 'mesh', 'meshes'),
    counts.points > 0 && countOf(counts.points, 'point'),
    counts.polygons > 0 && countOf(counts.polygons, 'polygon'),
  ];
  return `${words.filter(Boolean).join(', ')}:`;
}

/** One remedy; opened, it asks what it needs, shows what would change, and does it as one step. */
function Offer({ offer, room }: { offer: RemedyByHand; room: Room }) {
  const { remedy, fitting } = offer;
  const isOpen = useDesk((state) => state.byHand === remedy.id);
  return (
    <li className="border-t border-rule">
      <button
        type="button"
        aria-expanded={isOpen}
        onClick={() => setDesk({ byHand: isOpen ? null : remedy.id })}
        className="flex w-full items-baseline gap-2 py-2 text-left"
      >
        <ChevronRight size={14} className={clsx('shrink-0 self-center text-soft', isOpen && 'rotate-90')} />
        <span className={clsx('min-w-0 flex-1', isOpen && 'font-semibold')}>{remedy.title}</span>
        <span className="shrink-0 text-[12.5px] text-soft">
          {[
            fitting.length > 1 && numberText(fitting.length),
            remedy.room !== room.id && ROOM_WORDS[remedy.room],
          ]
            .filter(Boolean)
            .join(' · ')}
        </span>
      </button>
      {isOpen && <OpenOffer offer={offer} />}
    </li>
  );
}

/** Something that they need is not given yet. */
const NO_CALLS: ReturnType<typeof callsByHand> = [];

function OpenOffer({ offer }: { offer: RemedyByHand }) {
  const brief = useDesk((state) => state.brief);
  const { remedy, alsoAsked } = offer;
  // A form of its own is that of the remedy's room, in whatever room one is.
  const Form = roomById(remedy.room).forms?.[remedy.id];
  const bone = useDesk((state) => state.bone);
  const held = useDesk((state) => state.heldBones);
  const [given, setValues] = useState<Params>(() => ({
    ...defaultsOf(remedy),
    // The bone that one looks at is the one that is meant, until another is said.
    ...(bone >= 0
      ? Object.fromEntries(
          alsoAsked
            .filter(({ ref }) => ref === 'bone')
            .slice(0, 1)
            .map(({ name }) => [name, bone]),
        )
      : {}),
  }));
  const values = useMemo(() => ('locked' in given ? { ...given, locked: [...held] } : given), [given, held]);
  const missing = alsoAsked.filter(({ name, isOptional }) => !isOptional && values[name] === undefined);
  const unsaid = fieldsOf(remedy.params).filter(
    ({ name, kind, isOptional }) => kind === 'text' && !isOptional && !values[name],
  );
  const [isWrong, setIsWrong] = useState(false);
  const isGiven = missing.length + unsaid.length === 0 && !isWrong;
  const all = useMemo(() => callsByHand(offer, values), [offer, values]);
  const { title, does } = remedy.says?.(all[0]?.params ?? values) ?? remedy;
  if (Form)
    return (
      <div className="pb-3 pl-[22px]">
        <Form call={all[0]} />
      </div>
    );
  return (
    <div className="pb-3 pl-[22px]">
      <p className="text-[13px] text-soft">{does}</p>
      <ForMany calls={isGiven ? all : NO_CALLS} title={title} active of={null} label={title}>
        <RemedyFields
          params={remedy.params}
          values={values}
          brief={brief}
          askedRefs={alsoAsked.map(({ name }) => name)}
          onChange={(name, value) => setValues((before) => ({ ...before, [name]: value }))}
          onWrong={setIsWrong}
        />
      </ForMany>
    </div>
  );
}
