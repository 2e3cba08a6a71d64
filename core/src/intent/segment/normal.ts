import { formatIp, formatMac, formatPrefix, parseIp, parseMac, parsePrefix } from '../../address';
import { plainCaps } from '../../traffic';
import type { AddressService, AddressSpan, Isolation, Segment, Segment6, ServedFrom } from './segment';

/**
 * The same segment in canonical text: trimmed names, network addresses, lower-case IPv6 and MACs; what says nothing
 * is left out, so equal segments are equal bytes. Malformed text is kept.
 */
export function normaliseSegment(segment: Segment): Segment {
  const { domain, purpose, v6, isolation, recipeId, caps, off, routed, ...rest } = segment;
  return {
    ...rest,
    name: segment.name.trim(),
    subnet: prefix(segment.subnet),
    gateway: address(segment.gateway),
    addresses: segment.addresses && normaliseService(segment.addresses),
    ...said('domain', domain?.trim().toLowerCase().replace(/\.$/, '')),
    ...said('purpose', purpose?.trim()),
    ...said('isolation', isolationOf(isolation)),
    ...(v6 ? { v6: normaliseV6(v6) } : {}),
    ...said('recipeId', recipeId),
    ...said('routed', routed),
    ...said('caps', plainCaps(caps)),
    ...(off ? { off } : {}),
  };
}

function normaliseService(service: AddressService): AddressService {
  const { also, exclude, reservations, dns, route, ntp, options, from, off, ...rest } = service;
  return {
    ...rest,
    ...span(service),
    ...list('also', also?.map(span)),
    ...list('exclude', exclude?.map(span)),
    ...list(
      'reservations',
      reservations
        ?.map((each) => ({ mac: mac(each.mac), address: address(each.address), name: each.name.trim() }))
        .sort((a, b) => byAddress(a.address, b.address)),
    ),
    ...list('dns', dns?.map(address)),
    ...said('route', route === undefined || route === 'none' ? route : address(route)),
    ...list('ntp', ntp?.map(address)),
    ...list(
      'options',
      options?.map(({ code, value }) => ({ code, value: value.trim() })).sort((a, b) => a.code - b.code),
    ),
    ...(from && from.kind !== 'gateway' ? { from: normaliseFrom(from) } : {}),
    ...(off ? { off } : {}),
  };
}

function normaliseFrom(from: ServedFrom): ServedFrom {
  if (from.kind === 'switch') return { ...from, address: address(from.address) };
  if (from.kind === 'relay') return { ...from, server: address(from.server) };
  if (from.kind !== 'ap') return from;
  const deviceIds = from.how === 'each' ? [] : [...new Set(from.deviceIds)].sort();
  // One root is one AP for all.
  return { ...from, how: from.how === 'tree' && deviceIds.length === 1 ? 'one' : from.how, deviceIds };
}

function normaliseV6(v6: Segment6): Segment6 {
  const { first, last, ...rest } = v6;
  const stateful = v6.mode === 'stateful' && first !== undefined && last !== undefined;
  return {
    ...rest,
    prefix: prefix(v6.prefix),
    gateway: address(v6.gateway),
    ...(stateful ? { first: address(first), last: address(last) } : {}),
  };
}

const address = (text: string): string => {
  const ip = parseIp(text.trim());
  return ip ? formatIp(ip) : text.trim();
};
const prefix = (text: string): string => {
  const parsed = parsePrefix(text.trim());
  return parsed ? formatPrefix(parsed) : text.trim();
};
const mac = (text: string): string => {
  const parsed = parseMac(text);
  return parsed === null ? text.trim() : formatMac(parsed);
};
const span = ({ first, last }: AddressSpan): AddressSpan => ({ first: address(first), last: address(last) });

function byAddress(a: string, b: string): number {
  const [x, y] = [parseIp(a)?.value ?? 0n, parseIp(b)?.value ?? 0n];
  return x < y ? -1 : x > y ? 1 : 0;
}

/** A field that is there only when it says something. */
const said = <K extends string, V>(key: K, value: V | null | undefined): Partial<Record<K, V>> =>
  value === null || value === undefined || value === '' ? {} : ({ [key]: value } as Record<K, V>);
const list = <K extends string, V>(key: K, value: readonly V[] | undefined): Partial<Record<K, readonly V[]>> =>
  value === undefined || value.length === 0 ? {} : ({ [key]: value } as Record<K, readonly V[]>);

function isolationOf(isolation: Segment['isolation']): Isolation | undefined {
  const kept = Object.entries(isolation ?? {}).filter(([, apart]) => apart === true);
  return kept.length > 0 ? Object.fromEntries(kept) : undefined;
}
