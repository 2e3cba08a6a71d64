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
  /** Whether it is the controller itself, which answers for the users that it keeps: devices know where it is. */
  readonly own?: boolean | null;
  /** Name or address; empty of the controller. */
  readonly address: string;
  /** UDP port at which it is asked. */
  readonly port: number;
  /** UDP port at which it is told of sessions (RFC 2866); null: it is not told. */
  readonly accounting?: number | null;
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
  /** Certificates of the authority by which clients believe it, as PEM; null: none is said. */
  readonly authority?: string | null;
  /** A name that its certificate is for; null: any. */
  readonly certificateName?: string | null;
  readonly reach: SharedReach;
}

/** Values of one that is being made, as far as they are usual. */
export const USUAL_SERVER = {
  port: 1812,
  accounting: 1813,
  order: 1,
  timeout: 3,
  tries: 3,
  dead: 300,
  macs: 'none_lower',
  source: 'device',
} as const;
