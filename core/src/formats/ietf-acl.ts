import { formatPrefix, rangeToPrefixes, type IpRange, type IpVersion } from '../address';
import { PROTOCOL, type PacketRule, type PortSpan, type Service, type Verdict } from '../rules';

/** One entry of an access list (RFC 8519 §4.1, `ace`). */
interface Entry {
  readonly name: string;
  readonly matches?: object;
  readonly actions: { readonly forwarding: string };
}

const ACTIONS: Readonly<Record<Verdict, string>> = {
  allow: 'ietf-access-control-list:accept',
  deny: 'ietf-access-control-list:drop',
};
const ACL: Readonly<Record<IpVersion, { readonly name: string; readonly type: string; readonly ip: 'ipv4' | 'ipv6' }>> =
  {
    4: { name: 'iron-lattice-ipv4', type: 'ietf-access-control-list:ipv4-acl-type', ip: 'ipv4' },
    6: { name: 'iron-lattice-ipv6', type: 'ietf-access-control-list:ipv6-acl-type', ip: 'ipv6' },
  };

/**
 * Rules as access lists in JSON (RFC 8519 with the encoding of RFC 7951), one for each IP version. An entry there has
 * one prefix at each end and one stretch of ports, so that a rule becomes as many entries as it takes, in its order; the
 * last entry says what happens to everything else. State is not part of that model.
 */
export function ietfAclOf(rules: readonly PacketRule[], otherwise: Verdict): object {
  return ietfAclsOf([{ name: '', rules, otherwise }]);
}

/** Lists of several places side by side, as `ietfAclOf` writes one. @param lists `name` is told behind ours; empty: ours alone. */
export function ietfAclsOf(
  lists: readonly { readonly name: string; readonly rules: readonly PacketRule[]; readonly otherwise: Verdict }[],
): object {
  const acl = lists.flatMap(({ name: place, rules, otherwise }, i) =>
    ([4, 6] as const).map((version) => {
      const { name, type } = ACL[version];
      const last: Entry = { name: 'otherwise', actions: { forwarding: ACTIONS[otherwise] } };
      return {
        name: place === '' ? name : listName(`${name} ${place}`, i),
        type,
        aces: { ace: named([...rules.flatMap((rule) => entriesOf(rule, version)), last]) },
      };
    }),
  );
  return { 'ietf-access-control-list:acls': { acl } };
}

/** Characters of a name there (RFC 8519 §4.1: `string { length "1..64" }`). */
const MOST_NAME = 64;

/** A name that is cut keeps a number, so that no two are the same. */
const listName = (name: string, number: number): string =>
  name.length <= MOST_NAME ? name : `${name.slice(0, 58)} ${number}`;

/** Entries of one list under names of their own; the last keeps its. */
function named(entries: readonly Entry[]): Entry[] {
  const taken = new Set([entries.at(-1)!.name]);
  return entries.map((entry, i) => {
    if (i === entries.length - 1) return entry;
    let name = [...entry.name].slice(0, MOST_NAME).join('');
    for (let number = 2; taken.has(name); number++) {
      const end = ` (${number})`;
      name = [...entry.name].slice(0, MOST_NAME - end.length).join('') + end;
    }
    taken.add(name);
    return { ...entry, name };
  });
}

function entriesOf(rule: PacketRule, version: IpVersion): Entry[] {
  const { ip } = ACL[version];
  const [from, to] = [prefixesOf(rule.source, version), prefixesOf(rule.destination, version)];
  const matches = from.flatMap((source) =>
    to.flatMap((destination) =>
      rule.services.flatMap((service) =>
        transports(service, version).map(({ protocol, more }) => {
          const layer3 = {
            ...(protocol === null ? {} : { protocol }),
            ...(source === null ? {} : { [`source-${ip}-network`]: source }),
            ...(destination === null ? {} : { [`destination-${ip}-network`]: destination }),
          };
          return { ...(Object.keys(layer3).length > 0 ? { [ip]: layer3 } : {}), ...more };
        }),
      ),
    ),
  );
  return matches.map((each, i) => ({
    name: matches.length === 1 ? rule.id : `${rule.id} ${i + 1}`,
    ...(Object.keys(each).length > 0 ? { matches: each } : {}),
    actions: { forwarding: ACTIONS[rule.verdict] },
  }));
}

/** Prefixes of one version; null stands for every address. */
function prefixesOf(ranges: readonly IpRange[] | null, version: IpVersion): (string | null)[] {
  if (ranges === null) return [null];
  return ranges
    .filter((range) => range.version === version)
    .flatMap((range) => rangeToPrefixes(range).map(formatPrefix));
}

interface Transport {
  readonly protocol: number | null;
  readonly more: object;
}

/** Protocol and what is asked of its header; a service with several stretches of ports is as many. */
function transports({ protocol, ports, sourcePorts, type, code }: Service, version: IpVersion): Transport[] {
  const stretch = (span: PortSpan): object =>
    span.first === span.last
      ? { operator: 'eq', port: span.first }
      : { 'lower-port': span.first, 'upper-port': span.last };
  const ported = (name: 'tcp' | 'udp'): Transport[] =>
    (sourcePorts ?? [null]).flatMap((source) =>
      (ports ?? [null]).map((destination) => {
        const asked = {
          ...(source ? { 'source-port': stretch(source) } : {}),
          ...(destination ? { 'destination-port': stretch(destination) } : {}),
        };
        return { protocol: PROTOCOL[name], more: source || destination ? { [name]: asked } : {} };
      }),
    );
  if (protocol === 'any')
    return ports || sourcePorts ? [...ported('tcp'), ...ported('udp')] : [{ protocol: null, more: {} }];
  if (protocol === 'tcp' || protocol === PROTOCOL.tcp) return ported('tcp');
  if (protocol === 'udp' || protocol === PROTOCOL.udp) return ported('udp');
  const icmp = version === 4 ? PROTOCOL.icmp : PROTOCOL.icmp6;
  if (protocol !== 'icmp' && protocol !== icmp) return [{ protocol, more: {} }];
  const asked = { ...(type === undefined ? {} : { type }), ...(code === undefined ? {} : { code }) };
  return [{ protocol: icmp, more: type === undefined ? {} : { icmp: asked } }];
}
