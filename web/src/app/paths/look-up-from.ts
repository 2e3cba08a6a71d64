import { contains, parseIp, parsePrefix } from '@iron-lattice/core/address';
import type { SegmentStreams } from '@iron-lattice/core/assess';
import type { Course, Segment } from '@iron-lattice/core/intent';
import type { TableLine } from '@iron-lattice/core/routing';

/** Whose packets are looked up. */
export interface LookUpFrom {
  readonly segment: Segment;
  /** Prefixes that joined sites reach here. */
  readonly shares: readonly string[];
  /** How packets of the segment to the address leave where no other line leads them; absent: none do. */
  readonly streams: SegmentStreams | undefined;
  readonly courses: readonly Course[];
}

/** What is otherwise for packets of one segment than what a table says of an address; empty where that is no address. */
export function fromWords(
  { segment, shares, streams, courses }: LookUpFrom,
  asked: string,
  found: readonly TableLine[],
): string {
  const ip = parseIp(asked.trim());
  if (!ip || found.length === 0) return '';
  const { name, subnet, v6 } = segment;
  const own = parsePrefix(ip.version === 4 ? subnet : (v6?.prefix ?? ''));
  if (!own) return `${name} has no IPv6: nothing from there asks for it.`;
  if (contains(own, ip)) return `It is in ${name} itself: from there no gateway is asked.`;
  if (found.some(({ peer }) => peer)) {
    const shared = shares.some((text) => {
      const prefix = parsePrefix(text);
      return prefix !== null && prefix.version === own.version && contains(prefix, own);
    });
    if (!shared) return `From ${name} it goes nowhere: other sites do not reach ${name}, so nothing could come back.`;
  }
  const taking = found.every(({ kind }) => kind === 'uplink')
    ? courses.filter(({ id }) => streams?.courses.includes(id))
    : [];
  if (taking.length === 0) return `From ${name} the same.`;
  const ways = taking.map(
    ({ name: course, ports, how }) => `“${course}” by ${ports.join(how === 'share' ? ' and ' : ', then ')}`,
  );
  const word = taking.length === 1 ? 'the course' : 'the courses';
  return streams?.usual === false
    ? `From ${name} all of it takes ${word} ${ways.join(' and ')}.`
    : `From ${name} what fits takes ${word} ${ways.join(' and ')}; the rest the same.`;
}
