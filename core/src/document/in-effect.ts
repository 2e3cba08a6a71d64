import type { DeviceDocument, GatewayDocument } from './document';
import type { PairRole } from './pair';

/** A gateway’s document as it counts while the other of its pair routes: it holds no address of a segment, and serves nobody there. */
export function standingBy(document: GatewayDocument): GatewayDocument {
  const known = stood.get(document);
  if (known) return known;
  const {
    interfaces6: _six,
    relays: _relays,
    overlay: _overlay,
    pacts: _pacts,
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
