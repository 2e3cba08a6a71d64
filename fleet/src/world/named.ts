import type { ClassDocument } from '@iron-lattice/core/document';
import type { NamedReport, UnknownReport } from '@iron-lattice/core/line';
import type { Box } from './box';

/** A class that a server chose for a client. */
export interface NamedClass {
  readonly accessClass: ClassDocument;
  readonly server: string;
}

/** Why servers did not lead to a class. */
export type NotNamed = Pick<UnknownReport, 'why' | 'said' | 'server'>;

/** Who tells boxes what servers say of clients that they do not know themselves. */
export interface Namer {
  /** The class of a client. @param at name of the SSID or port. */
  readonly of: (box: Box, mac: string, at: string) => NamedClass | undefined;
  /** Why it has none, once that is known. */
  readonly whyNot: (box: Box, mac: string) => NotNamed | undefined;
}

/** Nobody asks any server. */
export const NO_NAMER: Namer = { of: () => undefined, whyNot: () => undefined };

/** The same as it is reported. */
export const namedBy = (named: NamedClass | undefined): { readonly named?: NamedReport } =>
  named ? { named: { classId: named.accessClass.id, server: named.server } } : {};
