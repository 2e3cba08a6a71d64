import type { EapPacket } from '../eap';
import type { Judged, KnownUser } from '../judged';
import type { Des } from './mschapv2';
import type { TlsEngine } from './tls-engine';

/** EAP methods that a server can offer. */
export const SERVER_METHODS = ['md5', 'ttls', 'peap', 'tls'] as const;
export type ServerMethod = (typeof SERVER_METHODS)[number];
/** Those that begin with TLS: of _tls_ alone the client shows a certificate. */
export type TlsServerMethod = Exclude<ServerMethod, 'md5'>;

/** Where a conversation stands: something is asked, or it is over. */
export type Step =
  | {
      readonly kind: 'ask';
      readonly type: number;
      readonly data: Uint8Array;
      readonly next: (answer: EapPacket) => Promise<Step>;
    }
  | {
      readonly kind: 'over';
      readonly judged: Judged;
      /** Key material of the session, 64 octets. */
      readonly keys?: Uint8Array;
    };

/** What methods need of who runs the server. */
export interface MethodParts {
  readonly find: (name: string) => Promise<KnownUser | null>;
  readonly random: (octets: number) => Uint8Array;
  /** The server’s end of a new TLS connection; null: it has no certificate. */
  readonly engine: ((method: TlsServerMethod) => TlsEngine) | null;
  readonly des: Des | null;
}
