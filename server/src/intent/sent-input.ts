import type { ConsequencesInput } from '@iron-lattice/core/assess';
import type { DeviceDocument } from '@iron-lattice/core/document';
import type { EstatePart } from '@iron-lattice/core/intent';

/** What sites share, as a text under its hash: a thousand sites are handed over one after the other, and it is read once. */
export interface SentEstate {
  readonly hash: string;
  readonly text: string;
}

/** What consequences follow from, as it is handed to a worker thread: what sites share and documents as texts, which only it reads. */
export interface SentInput extends Omit<ConsequencesInput, 'told' | 'estate'> {
  readonly estate: SentEstate;
  readonly told: Readonly<Record<string, string>>;
}

const sent = new WeakMap<EstatePart, SentEstate>();

/** What sites share, to be handed over. */
export function sendEstate(estate: EstatePart, hash: string): SentEstate {
  let made = sent.get(estate);
  if (made?.hash !== hash) sent.set(estate, (made = { hash, text: JSON.stringify(estate) }));
  return made;
}

/** What this thread read of what sites share, the latest last: a draft and what is live, before and after an edit. */
const read = new Map<string, EstatePart>();
const MOST_READ = 8;

/** What sites share, as it was handed over. */
export function readEstate({ hash, text }: SentEstate): EstatePart {
  const estate = read.get(hash) ?? (JSON.parse(text) as EstatePart);
  read.delete(hash);
  read.set(hash, estate);
  if (read.size > MOST_READ) read.delete(read.keys().next().value!);
  return estate;
}

/** The same with all of it read. */
export const readInput = ({ told, estate, ...facts }: SentInput): ConsequencesInput => ({
  ...facts,
  estate: readEstate(estate),
  told: Object.fromEntries(Object.entries(told).map(([id, text]) => [id, JSON.parse(text) as DeviceDocument])),
});
