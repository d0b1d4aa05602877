/** What is wrong with the Deckhand as delivered: planted on purpose, and held against the audit by a test. */
export interface PlantedFault {
  readonly check: string;
  readonly gravity: 'stops' | 'worth';
  readonly about: string;
}

export const DECKHAND_FAULTS: readonly PlantedFault[] = [
  { check: 'ground', gravity: 'stops', about: 'stands 32 mm above the ground' },
  { check: 'one-root', gravity: 'stops', about: 'the root bone was left beside the origin' },
  {
    check: 'inherited-scale',
    gravity: 'stops',
    about: 'the lantern hook is scaled to 0.8 and the lantern inherits it',
  },
  {
    check: 'parents',
    gravity: 'stops',
    about: 'the left toes still hang under the right foot after mirroring',
  },
  { check: 'influence-limit', gravity: 'stops', about: 'the oilskin coat holds up to six bones a point' },
  {
    check: 'weight-sum',
    gravity: 'stops',
    about: 'the boots’ weights sum to less than one around the ankles',
  },
  { check: 'no-weight', gravity: 'stops', about: 'the crown of the sou’wester carries no weight' },
  {
    check: 'on-arrival',
    gravity: 'stops',
    about: 'the lantern hangs on a hook that is no bone, and handsets drop it',
  },
  { check: 'bone-names', gravity: 'worth', about: 'the supplier’s names, and a finger with a copy’s suffix' },
  {
    check: 'mirrored-pairs',
    gravity: 'worth',
    about: 'the right hand’s axes are half a turn off, and a joint of the little finger was nudged',
  },
  { check: 'joint-in-limb', gravity: 'worth', about: 'the nudged joint stands outside of its finger' },
  { check: 'weight-on-ends', gravity: 'worth', about: 'the cap’s tip and a coat end are bound along' },
  {
    check: 'uneven-weights',
    gravity: 'worth',
    about: 'one side of the coat goes with its end bone, the other does not',
  },
  { check: 'coincident', gravity: 'worth', about: 'the coat’s front edge was never merged' },
  { check: 'quads', gravity: 'worth', about: 'the sleeves were cut into triangles at the elbows' },
  { check: 'bone-budget', gravity: 'worth', about: 'one skin lists every bone, ends and controls too' },
  {
    check: 'clip-jumps',
    gravity: 'worth',
    about: 'a capture lost the marker of the left hand for two frames',
  },
  { check: 'clip-loops', gravity: 'worth', about: 'its loop ends with the trunk turned away' },
  { check: 'clip-travel', gravity: 'worth', about: 'it walks off over the ground' },
  { check: 'clip-scale', gravity: 'worth', about: 'the tip of a thumb was stretched to reach its marker' },
  { check: 'clip-frames', gravity: 'worth', about: 'it is keyed at 60 frames a second' },
];

/** The Stoker's, in placement; his names wait for a later room. */
export const STOKER_FAULTS: readonly PlantedFault[] = [
  {
    check: 'units',
    gravity: 'stops',
    about: 'made in centimetres, and the file says inches: everything is 2.54 times too large',
  },
  { check: 'inherited-scale', gravity: 'stops', about: 'an empty group above everything is scaled to 1.25' },
  { check: 'height', gravity: 'stops', about: 'in the right unit he stands 1.66 m instead of 1.76 m' },
  { check: 'prop-height', gravity: 'stops', about: 'the hand lamp was left at an old scale' },
  {
    check: 'on-arrival',
    gravity: 'stops',
    about: 'handsets forget where the hand lamp’s node stands',
  },
  {
    check: 'across-sides',
    gravity: 'worth',
    about: 'a brush on the right boot reached the left one, which goes partly with the right shin',
  },
  {
    check: 'uneven-weights',
    gravity: 'worth',
    about: 'so the boots do not bend alike on both sides',
  },
  { check: 'stance', gravity: 'worth', about: 'he stands in an A-pose; the brief wants a T-pose' },
  { check: 'bone-names', gravity: 'worth', about: 'names with sides in front and capitals inside' },
];

/** The Heron's: a second skeleton for the wings, and a wing that was mirrored by half. */
export const HERON_FAULTS: readonly PlantedFault[] = [
  { check: 'one-root', gravity: 'stops', about: 'body and wings came as two skeletons' },
  {
    check: 'parents',
    gravity: 'stops',
    about: 'the right wing hangs on the left collar that it was mirrored from',
  },
  {
    check: 'bone-names',
    gravity: 'worth',
    about: 'names of the left wing with a copy’s suffix, and a root in capitals',
  },
  {
    check: 'bone-axes',
    gravity: 'worth',
    about: 'the right wing’s axes are half a turn off, so that its lengths run backwards',
  },
  { check: 'weight-on-ends', gravity: 'worth', about: 'the end of the right wing is bound' },
];

export const CAPSTAN_FAULTS: readonly PlantedFault[] = [
  {
    check: 'driven-twice',
    gravity: 'stops',
    about:
      'the bedplate is bound and hangs under the barrel, a pawl hangs on its bone and is bound, the rope is bound twice',
  },
  { check: 'node-scale', gravity: 'stops', about: 'the fifth bar is mirrored by a negative scale' },
  {
    check: 'on-arrival',
    gravity: 'stops',
    about: 'handsets forget the scale that mirrors the fifth bar',
  },
  { check: 'strays', gravity: 'worth', about: 'a camera and an empty node were left in the file' },
];
