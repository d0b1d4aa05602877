'use client';

import { useState } from 'react';
import { arrivalOf } from '@/core/anatomy/crosswalk';
import { Button } from '../../kit/button';
import { carryInOrder, changePicked, changeRule, setTwinsAlike, twinsOfPicked } from './changes';
import { choosePair } from './choice';
import { BoneChoice, FineButton, LockButton, PANEL, RULE_HINT } from './chosen-pair';
import { type Pairing, doubtAt } from './rows';

/** Several chosen pairs, changed together. */
export function ChosenSeveral({ pairing, bones }: { pairing: Pairing; bones: readonly number[] }) {
  const { source, skeleton, crosswalk } = pairing;
  const first = arrivalOf(source, skeleton, crosswalk, bones[0]);
  const [chosen, setOnto] = useState<{ readonly of: number; readonly target: number } | null>(null);
  const onto = chosen?.of === bones[0] ? chosen.target : first;
  const isOpen = bones.some((bone) => doubtAt(pairing, bone) !== null);
  const twins = twinsOfPicked().length;
  return (
    <div className={PANEL} role="group" aria-label="The chosen pairs">
      <div className="flex items-center gap-2">
        <p className="min-w-0 flex-1 truncate">
          <span className="font-semibold">{bones.length} bones chosen</span>{' '}
          <span className="mono text-soft">
            {source.bones[bones[0]].name} … {source.bones[bones[bones.length - 1]].name}
          </span>
        </p>
        <LockButton isLocked={bones.every((bone) => crosswalk[bone].locked)} />
      </div>
      <div className="mt-1.5 flex items-center gap-1.5 text-[13px] text-soft">
        onto
        <BoneChoice
          label="Where they go"
          skeleton={skeleton}
          value={onto}
          onChoose={(target) => setOnto({ of: bones[0], target })}
        />
      </div>
      <div className="mt-1.5 flex flex-wrap items-center gap-1.5">
        <Button
          small
          onClick={() => carryInOrder(onto)}
          title="One after the other, onto the chain that begins with this bone"
        >
          Carry in order
        </Button>
        <Button small onClick={() => changePicked('fold', onto)} title={RULE_HINT.fold}>
          Fold into it
        </Button>
        <Button small onClick={() => changePicked('keep', -1)} title={RULE_HINT.keep}>
          Keep
        </Button>
        <Button small onClick={() => changePicked('release', -1)} title={RULE_HINT.release}>
          Release
        </Button>
        {twins > 0 && (
          <Button small kind="quiet" onClick={setTwinsAlike} title="The other side the same (R)">
            Set the other side alike
          </Button>
        )}
        {isOpen && <FineButton />}
      </div>
    </div>
  );
}

/** A bone of the target that nothing arrives on: which bone is to arrive there? */
export function ChosenWaiting({ pairing, target }: { pairing: Pairing; target: number }) {
  const { source, skeleton } = pairing;
  return (
    <div className={PANEL} role="group" aria-label="The bone that waits">
      <p className="text-[13px]">
        Nothing arrives on <span className="mono font-semibold">{skeleton.bones[target].name}</span>. It
        stands where its neighbours put it and moves nothing.
      </p>
      <div className="mt-1.5 flex items-center gap-1.5 text-[13px] text-soft">
        carry onto it
        <BoneChoice
          label="The bone that is to arrive there"
          skeleton={source}
          value={-1}
          onChoose={(bone) => {
            changeRule(bone, 'carry', target);
            choosePair(bone);
          }}
        />
      </div>
    </div>
  );
}
