import type { DeviceDocument, GatewayDocument } from './document';

/** Which of two gateways usually routes, and which stands by. */
export type PairRole = 'first' | 'second';

/** How a gateway takes turns with another in holding the segments’ addresses (VRRP, RFC 9568). */
export interface PairDocument {
  readonly role: PairRole;
  /** Name and serial number of the other one. */
  readonly with: string;
  readonly serial: string;
  /** Virtual Router ID (RFC 9568 §5.2.3), the same at both. */
  readonly router: number;
  /** The VLAN in which they hear each other. */
  readonly vlan: number;
  /** Its own address there, with the prefix length, and that of the other. */
  readonly own: string;
  readonly other: string;
  /** RFC 9568 §5.2.4, from 1 to 254: while the tracked uplinks are good, and while they are not. */
  readonly priority: number;
  readonly lowered: number;
  /** Hundredths of a second between advertisements (RFC 9568 §5.2.7). */
  readonly advert: number;
  /** Uplinks that are tracked; absent: none. */
  readonly tracks?: readonly string[];
  /** It is lowered when any of them fails; absent: once all have. */
  readonly any?: true;
  /** Leases it has given out are told to the other. */
  readonly leases?: true;
}

/** A gateway’s document as it counts while the other of its pair routes: it holds no address of a segment, and serves nobody there. */
export function standingBy(document: GatewayDocument): GatewayDocument {
  const known = stood.get(document);
  if (known) return known;
  const {
    interfaces6: _six,
    relays: _relays,
    overlay: _overlay,
    tunnels: _tunnels,
    caps: _caps,
    policy: _policy,
    published: _published,
    ...rest
  } = document;
  const made: GatewayDocument = { ...rest, interfaces: [], addressServices: [] };
  stood.set(document, made);
  return made;
}
/** Documents never change. */
const stood = new WeakMap<GatewayDocument, GatewayDocument>();

/** Whether a device is the one of a pair that usually stands by. */
export const standsBy = (document: DeviceDocument): boolean =>
  document.kind === 'gateway' && document.pair?.role === 'second';

/**
 * What devices do while one of a pair routes and the other stands by; a site without a pair is as it was told.
 * @param routes which of the two routes.
 */
export function inEffect(
  documents: ReadonlyMap<string, DeviceDocument>,
  routes: PairRole = 'first',
): ReadonlyMap<string, DeviceDocument> {
  const isOff = (document: DeviceDocument): document is GatewayDocument =>
    document.kind === 'gateway' && document.pair !== undefined && document.pair.role !== routes;
  let some = false;
  for (const document of documents.values()) if (isOff(document)) some = true;
  if (!some) return documents;
  const known = effects.get(documents)?.[routes];
  if (known) return known;
  const made = new Map([...documents].map(([id, each]) => [id, isOff(each) ? standingBy(each) : each]));
  effects.set(documents, { ...effects.get(documents), [routes]: made });
  return made;
}
const effects = new WeakMap<
  ReadonlyMap<string, DeviceDocument>,
  Partial<Record<PairRole, ReadonlyMap<string, DeviceDocument>>>
>();
