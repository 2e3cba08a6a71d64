import type { ClassDocument } from '@iron-lattice/core/document';
import type { NamedReport } from '@iron-lattice/core/line';
import type { Box } from './box';

/** A class that a server chose for a client. */
export interface NamedClass {
  readonly accessClass: ClassDocument;
  readonly server: string;
}

/** Asks for it. @param at name of the SSID or port. */
export type NamedAt = (box: Box, mac: string, at: string) => NamedClass | undefined;

/** The same as it is reported. */
export const namedBy = (named: NamedClass | undefined): { readonly named?: NamedReport } =>
  named ? { named: { classId: named.accessClass.id, server: named.server } } : {};
