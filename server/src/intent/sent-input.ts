import { sameValue } from '@iron-lattice/core/base';
import type { BeyondSite, ConsequencesInput } from '@iron-lattice/core/assess';
import type { DeviceDocument } from '@iron-lattice/core/document';
import type { EstatePart, Part, SitePart } from '@iron-lattice/core/intent';

/**
 * What sites share, or what another site says, as JSON in UTF-8 under its hash. A thousand sites are handed over one after the other: the octets lie where
 * every thread sees them, so that nothing is copied, and they are read once.
 */
export interface SentPart {
  readonly hash: string;
  readonly octets: SharedArrayBuffer;
}

/** What consequences follow from, as it is handed to a worker thread: what sites share and documents as texts, which only it reads. */
export interface SentInput extends Omit<ConsequencesInput, 'told' | 'estate' | 'beyond'> {
  readonly estate: SentPart;
  readonly beyond?: Readonly<Record<string, Omit<BeyondSite, 'site'> & { readonly site: SentPart }>>;
  readonly told: Readonly<Record<string, string>>;
}

const sent = new WeakMap<Part, SentPart>();

/** A part that many are handed, to be handed over. */
export function sendPart(part: Part, hash: string): SentPart {
  let made = sent.get(part);
  if (made?.hash !== hash) sent.set(part, (made = { hash, octets: shared(JSON.stringify(part)) }));
  return made;
}

function shared(text: string): SharedArrayBuffer {
  const octets = new SharedArrayBuffer(Buffer.byteLength(text));
  Buffer.from(octets).write(text);
  return octets;
}

/** What this thread read of them, the latest last: a draft and what is live, before and after an edit, and sites that guarantees reach. */
const read = new Map<string, Part>();
const MOST_READ = 24;

/** What sites share, as it was handed over. */
export const readEstate = (sent: SentPart): EstatePart => readPart<EstatePart>(sent);

/** A site, as it was handed over; where all of an estate are, too many to be remembered. */
export const readSite = ({ octets }: SentPart): SitePart => JSON.parse(Buffer.from(octets).toString()) as SitePart;

function readPart<P extends Part>({ hash, octets }: SentPart): P {
  const part = read.get(hash) ?? (JSON.parse(Buffer.from(octets).toString()) as P);
  read.delete(hash);
  read.set(hash, part);
  if (read.size > MOST_READ) read.delete(read.keys().next().value!);
  return part as P;
}

/** The same with all of it read. */
export const readInput = ({ told, estate, beyond, ...facts }: SentInput): ConsequencesInput => ({
  ...facts,
  ...(beyond
    ? {
        beyond: Object.fromEntries(
          Object.entries(beyond).map(([id, { site, roster }]) => [id, { site: readPart<SitePart>(site), roster }]),
        ),
      }
    : {}),
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
