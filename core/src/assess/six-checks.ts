import { contains, parsePrefix, type Prefix } from '../address';
import { isRoutedByGateway, type Operation, type Segment } from '../intent';
import { segment6Within } from '../lattice';
import { nameIn, type Check, type CheckContext } from './check';
import type { Finding, Mend } from './finding';

/** A prefix that a provider delegated, and where. */
interface Delegated {
  readonly prefix: Prefix;
  readonly text: string;
  readonly where: string;
}

const UNIQUE_LOCAL = parsePrefix('fc00::/7')!;

/** Segments whose addresses of IPv6 lead nowhere outside: they are in no prefix that any provider delegated, while some did. */
export const sixOutside: Check = (context) => {
  const all = delegatedIn(context);
  if (all.length === 0) return [];
  return context.site.segments.flatMap((segment): Finding[] => {
    const prefix = segment.v6 && parsePrefix(segment.v6.prefix);
    if (!prefix || !isRoutedByGateway(segment)) return [];
    if (all.some((each) => contains(each.prefix, { version: 6, value: prefix.network }))) return [];
    const isLocal = contains(UNIQUE_LOCAL, { version: 6, value: prefix.network });
    const given = all.map(({ text, where }) => `${text} at ${where}`).join(', ');
    return [
      {
        key: `uplink.six-outside ${segment.id}`,
        code: 'uplink.six-outside',
        // Whoever chose a unique local prefix (RFC 4193) may well mean the inside alone.
        severity: isLocal ? 'info' : 'warning',
        message: isLocal
          ? `${segment.name} has no IPv6 to the internet`
          : `Nothing comes back to ${segment.name} by IPv6`,
        reason: `${segment.v6.prefix} is in no prefix that a provider gave: ${given}. Providers carry no other (BCP 38).`,
        place: { siteId: context.site.id, kind: 'segment', id: segment.id },
        mend: mendOf(context, segment, all[0]!),
      },
    ];
  });
};

function delegatedIn(context: CheckContext): Delegated[] {
  return context.uplinks.flatMap(({ deviceId, port, prefix: text }) => {
    const prefix = text === undefined ? null : parsePrefix(text);
    // Longer ones have no room for a segment that makes its addresses itself (RFC 4862 §5.5.3).
    if (text === undefined || prefix?.version !== 6 || prefix.length > 64) return [];
    return [{ prefix, text, where: `${port} of ${nameIn(context, deviceId)}` }];
  });
}

function mendOf({ site }: CheckContext, segment: Segment, { prefix, text }: Delegated): Mend | null {
  const to = segment6Within(prefix, site, segment);
  if (!to) return null;
  const of = { siteId: site.id, segmentId: segment.id };
  const operation: Operation = { type: 'segment.set', ...of, from: { v6: segment.v6! }, to: { v6: to } };
  return { label: `number ${segment.name} ${to.prefix}, of ${text}`, operations: [operation] };
}
