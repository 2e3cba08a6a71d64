import type { DeviceDocument } from '@iron-lattice/core/document';
import type { GatewayPaths } from './gateway-paths';

/** A box that may be a gateway. */
export interface Leaver {
  readonly device: { readonly serial: string; readonly mac: string };
  readonly document: DeviceDocument;
  readonly secrets: Readonly<Record<string, string>>;
  readonly powered: boolean;
}

/** A gateway, and how it leaves. */
export interface Gateway<Box extends Leaver = Leaver> {
  readonly box: Box;
  readonly paths: GatewayPaths;
}
