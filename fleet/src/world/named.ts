import type { ClassDocument, PortalDocument, SaidOf } from '@iron-lattice/core/document';
import type { EntryRefusal, NamedReport, ServerReport, UnknownReport } from '@iron-lattice/core/line';
import type { Box } from './box';
import type { Enters } from './enters';

/** A class that a server chose for a client. */
export interface NamedClass {
  readonly accessClass: ClassDocument;
  readonly server: string;
}

/** Why servers did not lead to a class. */
export type NotNamed = Pick<UnknownReport, 'why' | 'said' | 'server'>;

/** What came of asking servers for somebody who says who it is. */
export type Proved =
  | { readonly ok: true; readonly said: SaidOf; readonly server: string; readonly keys: boolean }
  | { readonly ok: false; readonly why: EntryRefusal; readonly server?: string };

/** What came of asking servers for the keys of a MAC address, and comparing them with the one that is given. */
export type KeyNamed =
  | { readonly ok: true; readonly said: SaidOf; readonly server: string }
  | { readonly ok: false; readonly why: EntryRefusal | 'passphrase'; readonly server?: string };

/** Seconds for which a no holds at the least, and a yes at the most; absent: as is usual. */
export interface AskingTimes {
  readonly quiet?: number;
  readonly again?: number;
}

/** Who tells boxes what servers say of clients that they do not know themselves. */
export interface Namer {
  /** The class of a client. @param at name of the SSID or port. */
  readonly of: (box: Box, mac: string, at: string, times?: AskingTimes) => NamedClass | undefined;
  /** The portal that an answer about its MAC address named; undefined: none, or nothing is known of it. */
  readonly portalOf: (box: Box, mac: string) => PortalDocument | undefined;
  /** Why it has none, once that is known. */
  readonly whyNot: (box: Box, mac: string) => NotNamed | undefined;
  /** A client is gone from a box: when it comes back it is asked for anew. */
  readonly left: (box: Box, mac: string) => void;
  /** Which servers answered a box when it asked them last. */
  readonly serversOf: (box: Box) => readonly ServerReport[];
  /** What servers say of somebody who says who it is; null while they are asked. @param at name of the SSID or port. */
  readonly prove: (box: Box, mac: string, at: string, enters: Enters, times?: AskingTimes) => Proved | null;
  /** What servers say of the key that a client gives at an SSID; null while they are asked. */
  readonly key: (box: Box, mac: string, at: string, gives: string) => KeyNamed | null;
}

/** Nobody asks any server. */
export const NO_NAMER: Namer = {
  of: () => undefined,
  portalOf: () => undefined,
  whyNot: () => undefined,
  prove: () => ({ ok: false, why: 'unasked' }),
  key: () => ({ ok: false, why: 'unasked' }),
  left: () => {},
  serversOf: () => [],
};

/** The same as it is reported. */
export const namedBy = (named: NamedClass | undefined): { readonly named?: NamedReport } =>
  named ? { named: { classId: named.accessClass.id, server: named.server } } : {};
