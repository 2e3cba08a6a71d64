import { portsOutside, protocolsOf, segmentWith, type Publication, type Segment } from '@iron-lattice/core/intent';
import { readEnds, writeEnds, type EndNames } from '@iron-lattice/core/rules';
import { numberTyped } from '../ui/number-typed';
import { portsTyped } from './course-text';

/** What is published as its sheet reads. */
export interface PublicationText {
  readonly name: string;
  /** Uplinks, parted by commas; none: all. */
  readonly ports: string;
  readonly protocol: Publication['protocol'];
  readonly outside: string;
  readonly address: string;
  readonly inside: string;
  readonly from: string;
  /** Id of hours; empty: always. */
  readonly hours: string;
  readonly within: boolean;
  readonly log: boolean;
  readonly off: boolean;
}

export const NEW_PUBLICATION: PublicationText = {
  ...{ name: '', ports: '', protocol: 'tcp', outside: '', address: '', inside: '', from: 'internet', hours: '' },
  ...{ within: false, log: false, off: false },
};

/** What is published as it would be typed. */
export function publicationTextOf(publication: Publication): PublicationText {
  const { name, ports, protocol, outside, address, inside, from, hours, within, log, off } = publication;
  return {
    ...{ name, ports: ports.join(', '), protocol, outside, address, from: writeEnds(from) },
    ...{ inside: inside ? `${inside}` : '', hours: hours ?? '' },
    ...{ within: within ?? false, log: log ?? false, off: off ?? false },
  };
}

export type PublicationFields = Omit<Publication, 'id' | 'deviceId'>;

/** What is typed, as something that is published. What is no number is kept as one that no port has, and refused. */
export const publicationTyped = (text: PublicationText, known: EndNames): PublicationFields => ({
  ...{ name: text.name, ports: portsTyped(text.ports), protocol: text.protocol },
  ...{ outside: text.outside, address: text.address, from: readEnds(text.from, known) },
  inside: text.inside.trim() === '' ? null : (numberTyped(text.inside) ?? -1),
  hours: text.hours || null,
  within: text.within || null,
  log: text.log || null,
  off: text.off || null,
});

/** Whom an address is of, in words: its segment, and whom it is reserved for there. */
export function whoseWords(address: string, segments: readonly Segment[]): string {
  const home = segmentWith(segments, address.trim());
  if (!home) return '';
  const reserved = home.addresses?.reservations?.find((each) => each.address === address.trim());
  return reserved ? `In ${home.name}, reserved for ${reserved.name || reserved.mac}` : `In ${home.name}`;
}

/** Where it is asked for, in words: `tcp 443`. @param outside as it is kept. */
export const askedWords = ({ protocol, outside }: Pick<Publication, 'protocol' | 'outside'>): string =>
  `${protocolsOf({ protocol }).join(' and ')} ${outside}`;

/** Whom it leads to, in words: `10.20.5.7:8443`. */
export function leadsWords(publication: Pick<Publication, 'outside' | 'address' | 'inside'>): string {
  const { address, inside } = publication;
  const span = portsOutside(publication);
  if (!span) return address;
  const first = inside ?? span.first;
  const last = first + span.last - span.first;
  return `${address}:${first === last ? first : `${first}-${last}`}`;
}
