import { classOnSsid, portalBySaid, type SsidDocument } from '@iron-lattice/core/document';
import { joinsOnSsid, type Joined } from '@iron-lattice/core/lattice';
import type { EntryRefusal, UnknownReport } from '@iron-lattice/core/line';
import type { Box } from './box';
import type { GivenKey } from './keys';
import type { Enters } from './enters';
import { namedBy, type Namer, type Proved } from './named';

/** What an SSID that asks who somebody is makes of a client. */
export type AtDoor = GivenKey & Pick<Joined, 'vlan' | 'accessClass'>;

/** What an AP makes of a client of an SSID that asks who it is; while servers are asked, it is neither in nor turned away. */
export function entersSsid(
  box: Box,
  ssid: SsidDocument,
  { mac, enters }: { readonly mac: string; readonly enters?: Enters },
  namer: Namer,
): AtDoor {
  const proved = enters && namer.prove(box, mac, ssid.name, enters);
  return enters && proved ? throughDoor(box, ssid, mac, enters, proved) : { vlan: null, why: null };
}

function throughDoor(
  { document }: Box,
  ssid: SsidDocument,
  mac: string,
  { user, method }: Enters,
  proved: Proved,
): AtDoor {
  const { server } = proved;
  const not = (why: EntryRefusal, said?: string): AtDoor => ({
    ...{ vlan: null, why },
    turnedAway: { user, ...(server === undefined ? {} : { server }), ...(said === undefined ? {} : { said }) },
  });
  if (!proved.ok) return not(proved.why);
  // What is sent on the air is encrypted by keys that the method makes (IEEE 802.11-2020 §12.7.1.3).
  if (!proved.keys) return not('keyless');
  const chosen = classOnSsid(document, ssid, proved.said);
  if (!chosen.ok) return not(chosen.why, chosen.said);
  const accessClass = chosen.accessClass ?? undefined;
  const joined = joinsOnSsid(document, ssid, mac, undefined, accessClass);
  const named = namedBy(accessClass && { accessClass, server: proved.server });
  const portal = portalBySaid(document, proved.said);
  return { ...joined, entered: { user, method, server: proved.server }, ...named, ...(portal ? { portal } : {}) };
}

/** Why somebody is not in who says who it is, in words. */
const WORDS: Readonly<Record<string, (server: string, said: string) => string>> = {
  rejected: (server) => `${server} turns it away.`,
  nobody: () => 'no server answers.',
  unasked: () => 'there is no server to ask.',
  untrusted: (server) => `it does not believe ${server}.`,
  method: (server) => `${server} wants another method.`,
  keyless: (server) => `${server} lets it in, and the method makes no keys, which the air needs.`,
  class: (server, said) => `${server} names the class “${said}”, which is not here.`,
  vlan: (server, said) => `${server} names VLAN “${said}”, which is that of no class here.`,
  segment: (_server, said) => `its class “${said}” has no segment here.`,
} satisfies Record<EntryRefusal, (server: string, said: string) => string>;

/** What is said of a key that servers were to name. */
export function keyTurnedAwayWords({ why, turnedAway }: GivenKey): string {
  const { server = 'The server', said = '' } = turnedAway ?? {};
  if (why === null || why === undefined) return 'The key is being asked for: try again in a moment.';
  if (why === 'passphrase') return `It is not let in: ${server} names no such key for it.`;
  if (why === 'nowhere')
    return `It is not let in: ${server} says that its key leads to “${said}”, which it does not here.`;
  return `It is not let in: ${WORDS[why]?.(server, said) ?? 'its key is not taken here.'}`;
}

/** The same as a sentence. */
export function turnedAwayWords(
  user: string,
  { why, turnedAway }: { readonly why?: string | null; readonly turnedAway?: Pick<UnknownReport, 'server' | 'said'> },
): string {
  if (!why) return `${user} is being asked for: try again in a moment.`;
  const { server = 'The server', said = '' } = turnedAway ?? {};
  const words = WORDS[why]?.(server, said) ?? 'its port lets nobody in that is not known.';
  return `${user} is not let in: ${words}`;
}
