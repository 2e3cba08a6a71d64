import type { SecretRef } from '../../base';
import type { MacFormat } from '../../radius';
import type { Purposed } from '../purpose';
import type { SharedReach } from '../reach';

/** Most RADIUS servers of an estate. */
export const MOST_SERVERS = 100;

/** A RADIUS server that devices ask who somebody is (RFC 2865). */
export interface RadiusServer extends Purposed {
  readonly id: string;
  readonly name: string;
  /** Name or address. */
  readonly address: string;
  /** UDP port at which it is asked. */
  readonly port: number;
  readonly secret: SecretRef;
  /** Those with the lowest are asked first, in turn where several have it; others when these are dead. */
  readonly order: number;
  /** Seconds until a request is sent again, and how often it is sent in all. */
  readonly timeout: number;
  readonly tries: number;
  /** Seconds for which one that did not answer is left alone. */
  readonly dead: number;
  /** How MAC addresses are written that it is asked about; null: it is not asked about them. */
  readonly macs: MacFormat | null;
  /** Who asks: the device that somebody is at, or the gateway of its site for it. */
  readonly source: 'device' | 'gateway';
  /** Whether its answers may lack a Message-Authenticator (RFC 3579 §3.2), as those of old servers do. */
  readonly unsigned?: boolean | null;
  readonly reach: SharedReach;
}

/** Values of one that is being made, as far as they are usual. */
export const USUAL_SERVER = {
  port: 1812,
  order: 1,
  timeout: 3,
  tries: 3,
  dead: 300,
  macs: 'none_lower',
  source: 'device',
} as const;
