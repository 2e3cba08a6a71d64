import type { HitchCode } from '@iron-lattice/core/intake';

/** What to do about a kind of hitch, and what trying again does. */
export interface HitchWords {
  readonly next: string;
  readonly retry: string;
}

/** In one place, so that the same trouble always reads the same. */
export const HITCH_WORDS: Readonly<Record<HitchCode, HitchWords>> = {
  key: {
    next: 'If its mainboard was changed, take the new key. If not, somebody else’s box uses this serial number: leave it out.',
    retry: 'Take the new key',
  },
  clock: {
    next: 'It was told the time. If it does not follow, check its battery and its time server.',
    retry: 'Tell it the time again',
  },
  model: { next: 'Supply a hardware sheet of this model; it is taken in as generic.', retry: 'Look again' },
  'other-model': {
    next: 'Check the label against the list, then take it as it is, or leave it out.',
    retry: 'Take it as it is',
  },
  'other-mac': {
    next: 'Check the label against the list, then take it as it is, or leave it out.',
    retry: 'Take it as it is',
  },
  firmware: { next: 'Update it: until then it is told nothing else.', retry: 'Update it now' },
  mac: { next: 'Change the MAC address of one of them, or take one out of the network.', retry: 'Look again' },
  hash: {
    next: 'Somebody changed it past this controller. Tell it its own document again.',
    retry: 'Tell it its document',
  },
  flapping: { next: 'Check its power, its cable and the port it hangs on.', retry: 'Count anew' },
  uplink: {
    next: 'Check its cable, and say under Paths what the provider gave. This goes by itself once it has an address.',
    retry: 'Look again',
  },
  claim: { next: 'Set right what the reason names, then try again.', retry: 'Try again' },
  frame: {
    next: 'What it said then was not taken. Update its firmware; if it goes on, replace it.',
    retry: 'Look again',
  },
  flood: {
    next: 'Claim or announce those that are yours. If none is, close the way from there to this controller.',
    retry: 'Look again',
  },
  version: { next: 'Update its firmware by hand, or this controller.', retry: 'Look again' },
};
