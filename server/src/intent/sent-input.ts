import { sameValue } from '@iron-lattice/core/base';
import type { ConsequencesInput } from '@iron-lattice/core/assess';
import type { DeviceDocument } from '@iron-lattice/core/document';
import type { EstatePart } from '@iron-lattice/core/intent';

/**
 * What sites share, as JSON in UTF-8 under its hash. A thousand sites are handed over one after the other: the octets lie where every thread sees them, so
 * that nothing is copied, and they are read once.
 */
export interface SentEstate {
  readonly hash: string;
  readonly octets: SharedArrayBuffer;
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
  if (made?.hash !== hash) sent.set(estate, (made = { hash, octets: shared(JSON.stringify(estate)) }));
  return made;
}

function shared(text: string): SharedArrayBuffer {
  const octets = new SharedArrayBuffer(Buffer.byteLength(text));
  Buffer.from(octets).write(text);
  return octets;
}

/** What this thread read of what sites share, the latest last: a draft and what is live, before and after an edit. */
const read = new Map<string, EstatePart>();
const MOST_READ = 8;

/** What sites share, as it was handed over. */
export function readEstate({ hash, octets }: SentEstate): EstatePart {
  const estate = read.get(hash) ?? (JSON.parse(Buffer.from(octets).toString()) as EstatePart);
  read.delete(hash);
  read.set(hash, estate);
  if (read.size > MOST_READ) read.delete(read.keys().next().value!);
  return estate;
}

/** The same with all of it read. */
export const readInput = ({ told, estate, ...facts }: SentInput): ConsequencesInput => ({
  ...facts,
  estate: readEstate(estate),
  told: alike(Object.entries(told).map(([id, text]) => [id, JSON.parse(text) as DeviceDocument])),
});

/** Documents of which equal lists are one and the same: many devices of a site are told the same, and what is found of one list is found once. */
function alike(documents: readonly (readonly [id: string, DeviceDocument])[]): Record<string, DeviceDocument> {
  const met = new Map<string, unknown[]>();
  for (const [, document] of documents) {
    const fields = document as unknown as Record<string, unknown>;
    for (const [field, value] of Object.entries(fields)) {
      if (!Array.isArray(value) || value.length === 0) continue;
      const before = met.get(field) ?? [];
      const same = before.find((one) => sameValue(one, value));
      if (same !== undefined) fields[field] = same;
      else if (before.length < MOST_COMPARED) met.set(field, [...before, value]);
    }
  }
  return Object.fromEntries(documents);
}
/** Different lists of one field that another is compared with. */
const MOST_COMPARED = 4;
