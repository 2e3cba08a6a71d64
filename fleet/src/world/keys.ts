import {
  isFormerValid,
  keyAnswer,
  serverKeyAnswer,
  type ClassDocument,
  type PortalDocument,
  portalBySaid,
  type KeyRefusal,
  ringPlace,
  type KeyLed,
  type RingDocument,
  type SsidDocument,
} from '@iron-lattice/core/document';
import type { EnteredReport, EntryRefusal, NamedReport, RefusedReport } from '@iron-lattice/core/line';
import { dayOf, localMoment } from '@iron-lattice/core/rules';
import type { Box } from './box';
import type { Namer } from './named';
import type { AirClient } from './world-file';

/** What an AP makes of what a client gives. */
export interface GivenKey {
  /** Absent: it is right. Null: it is not known yet. */
  readonly why?: 'passphrase' | KeyRefusal | EntryRefusal | null;
  /** It is the passphrase that was right before, and still is. */
  readonly former?: true;
  /** The key of a ring that it is, and where that leads. */
  readonly key?: string;
  readonly led?: KeyLed;
  /** The server that named it. */
  readonly keyedBy?: string;
  /** A server named the portal that holds it. */
  readonly portal?: PortalDocument;
  /** A server chose its class. */
  readonly named?: NamedReport;
  /** Who it proved to be; of one that did not, who it says to be, and what was said of that. */
  readonly entered?: EnteredReport;
  readonly turnedAway?: Pick<RefusedReport, 'user' | 'server' | 'said'>;
}

/** Where an AP puts a client, null: it does not take it; of which class it is there, and what it makes of what the client gives. */
export interface Admitted extends GivenKey {
  readonly vlan: number | null;
  readonly accessClass?: ClassDocument | undefined;
}

/**
 * What an AP makes of what a client gives for an SSID.
 * @param others devices that it has with the same key of a ring already, by the key's id.
 */
export function givenKey(
  { secrets, document, rings }: Pick<Box, 'secrets' | 'document' | 'rings'>,
  ssid: SsidDocument,
  { mac, passphrase }: Pick<AirClient, 'mac' | 'passphrase'>,
  others?: ReadonlyMap<string, number>,
): GivenKey {
  if (ssid.ring) {
    const key = rings.get(ssid.id)?.find(passphrase, ssid.name);
    if (!key) return { why: 'passphrase' };
    const now = localMoment(Date.now(), document.site.timeZone);
    const answer = keyAnswer(ringPlace(document, ssid, ssid.ring), key, { mac, now, others: others?.get(key.id) ?? 0 });
    if (!answer.ok) return { why: answer.why, key: key.id };
    return { key: key.id, ...ledBy(answer) };
  }
  if (!ssid.passphrase || secrets[ssid.passphrase.secret] === passphrase) return {};
  if (!ssid.former || secrets[ssid.former.passphrase.secret] !== passphrase) return { why: 'passphrase' };
  return isFormerValid(ssid, dayOf(Date.now(), document.site.timeZone)) ? { former: true } : { why: 'passphrase' };
}

/** What an AP makes of a key that servers are to name; while they are asked, a client is neither in nor turned away. */
export function askedKey(
  box: Box,
  ssid: SsidDocument & { readonly ring: RingDocument },
  { mac, passphrase }: Pick<AirClient, 'mac' | 'passphrase'>,
  namer: Namer,
): GivenKey {
  if (passphrase === undefined) return { why: 'passphrase' };
  const named = namer.key(box, mac, ssid.name, passphrase);
  if (!named) return { why: null };
  const { server } = named;
  const by = server === undefined ? {} : { server };
  if (!named.ok) return { why: named.why, turnedAway: by };
  const answer = serverKeyAnswer(ringPlace(box.document, ssid, ssid.ring), named.said);
  if (!answer.ok)
    return { why: answer.why, turnedAway: { ...by, said: named.said.filterIds[0] ?? named.said.vlan.text } };
  const portal = portalBySaid(box.document, named.said);
  return { keyedBy: named.server, ...ledBy(answer), ...(portal ? { portal } : {}) };
}

/** Where a key leads, if it says that. */
const ledBy = ({ at, accessClass }: KeyLed): Pick<GivenKey, 'led'> =>
  accessClass ? { led: { accessClass } } : at ? { led: { at } } : {};

/** What an AP makes of a key of a ring that a pretend client gives. @param id of the key; absent: one that is in no ring. */
export function ringAnswer(
  { document, rings }: Pick<Box, 'document' | 'rings'>,
  ssid: SsidDocument,
  id: string | undefined,
  mac: string,
): { readonly ok: boolean } & KeyLed {
  const { id: ssidId, ring } = ssid;
  const key = rings.get(ssidId)?.keys.find((each) => each.id === id);
  if (!key || !ring) return { ok: false };
  return keyAnswer(ringPlace(document, ssid, ring), key, {
    mac,
    now: localMoment(Date.now(), document.site.timeZone),
    others: 0,
  });
}
