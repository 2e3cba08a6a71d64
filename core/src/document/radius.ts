import type { SecretRef } from '../base';
import type { MacFormat } from '../radius';
import type { PortalDocument } from './portal';

/** A RADIUS server, as those have to know it who ask it. */
export interface RadiusServerDocument {
  readonly name: string;
  /** It is the controller that told it: where the line ends, at the port that the welcome says. */
  readonly own?: true;
  /** Name or address; empty of the controller. */
  readonly address: string;
  readonly port: number;
  /** Port at which it is told of sessions; absent: it is not. */
  readonly accounting?: number;
  readonly secret: SecretRef;
  /** Those with the lowest are asked first, in turn where several have it; others when these are dead. */
  readonly order: number;
  /** Seconds until a request is sent again, how often it is sent in all, and for how long one that did not answer is left alone. */
  readonly timeout: number;
  readonly tries: number;
  readonly dead: number;
  /** How it wants MAC addresses written; absent: it is not asked about them. */
  readonly macs?: MacFormat;
  /** Its answers may lack a Message-Authenticator. */
  readonly unsigned?: true;
  /** Address of the gateway that asks it for this device; absent: it asks itself. */
  readonly through?: string;
}

/** Whom a device asks who a client is, and what an answer may name. */
export interface RadiusDocument {
  readonly servers: readonly RadiusServerDocument[];
  /** Segments of its classes, by VLAN ID. */
  readonly segments: readonly { readonly vlan: number; readonly name: string }[];
  /** Portals that hold whoever is let in by an answer that names them. */
  readonly portals?: readonly PortalDocument[];
}
