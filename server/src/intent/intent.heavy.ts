import {
  consequencesOf,
  mendAll,
  takeOver,
  outcomeAt,
  reviewOf,
  type ConsequencesInput,
  type MendPlan,
  type SentConsequences,
  type SiteReview,
  type TakeOver,
} from '@iron-lattice/core/assess';
import { differenceOf, type DeviceDocument, type Difference } from '@iron-lattice/core/document';
import { resolve, type Intent, type RosterDevice } from '@iron-lattice/core/intent';
import { packGrid } from '@iron-lattice/core/lattice';
import { compileSite } from '@iron-lattice/core/rollout';
import type { TasksOf } from '../platform/heavy';
import '../platform/native-hash';
import { book } from './policy-book';
import { readEstate, readInput, type SentInput } from './sent-input';

/** A device that runs something else than it was told, with the site that it is at. */
export interface TakeOverInput {
  readonly intent: Intent;
  readonly roster: readonly RosterDevice[];
  readonly deviceId: string;
  readonly told: DeviceDocument;
  readonly runs: DeviceDocument;
}

declare module '../platform/heavy' {
  interface HeavyTasks {
    /** What a site's draft means. */
    consequences: (input: SentInput) => SentConsequences;
    /** As much of it as a look over many sites needs. */
    review: (input: SentInput) => SiteReview;
    /** What was changed at a device by hand, as edits. */
    'take-over': (input: TakeOverInput) => TakeOver & { readonly difference: Difference };
    /** What all its mends together would do. */
    mends: (input: Omit<ConsequencesInput, 'told'>) => MendPlan;
    /** What some devices of a site are to be told, by their ids. */
    documents: (
      of: Pick<SentInput, 'estate' | 'site' | 'roster'>,
      deviceIds: readonly string[],
    ) => ReadonlyMap<string, DeviceDocument>;
  }
}

export const tasks: TasksOf<'consequences' | 'review' | 'mends' | 'take-over' | 'documents'> = {
  consequences: (input) => {
    const { grid, ...seen } = consequencesOf(readInput(input), book);
    return { ...seen, grid: packGrid(grid) };
  },
  // Of a thousand sites that are looked at one after the other nothing is kept: it would push out what people work in.
  review: (input) => reviewOf(outcomeAt(readInput(input), book.has(input.site.id) ? book : undefined)),
  'take-over': ({ intent, roster, deviceId, told, runs }) => {
    const device = roster.find(({ id }) => id === deviceId)!;
    return { ...takeOver(intent, roster, device, told, runs), difference: differenceOf(told, runs) };
  },
  mends: ({ estate, site, ...facts }) => {
    const devices = new Map(facts.roster.map((device) => [device.id, device]));
    const intent = { estate, sites: new Map([[site.id, site]]) };
    return mendAll(intent, facts, site.id, (id) => devices.get(id));
  },
  documents: ({ estate, site, roster }, deviceIds) => {
    const documents = compileSite(resolve(readEstate(estate), site), roster);
    return new Map(deviceIds.map((id) => [id, documents.get(id)!]));
  },
};
