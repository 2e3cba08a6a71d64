import type { SecretRef } from '../base';
import type { FixedDocument } from './uplink';

/** How a gateway may be told at its own page to come to an address. */
export const FIRST_WAYS = ['dhcp', 'static', 'pppoe', 'cellular'] as const;

/**
 * How a gateway comes to an address by what somebody said at its own page, before a controller said anything. It holds for as long as
 * nothing else is said of that port. @template P the password: itself, or what it is kept as.
 */
export interface FirstUplink<P = SecretRef> {
  readonly port: string;
  readonly way: (typeof FIRST_WAYS)[number];
  readonly fixed?: FixedDocument;
  readonly login?: { readonly user: string; readonly password: P };
  readonly apn?: string;
  readonly vlan?: number;
  readonly mac?: string;
  readonly dns?: readonly string[];
}
