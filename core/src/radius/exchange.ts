import type { MacFormat } from './mac-format';
import type { SeenCertificate, Trust } from './method/tls-engine';
import type { SaidAttribute } from './values';

/** Ways in which somebody can be asked for: a password as such or by challenge, EAP with a challenge, or a MAC address alone. */
export const METHODS = ['pap', 'chap', 'eap-md5', 'eap-ttls', 'peap', 'mac'] as const;
export type Method = (typeof METHODS)[number];
/** The same, and by a certificate of one's own, which nobody has but the client itself. */
export type ClientMethod = Method | 'eap-tls';

/** Those of them in which a client proves who it is to a server behind whom it asks (RFC 3748), with a name and a password. */
export const EAP_METHODS = ['eap-ttls', 'peap', 'eap-md5'] as const satisfies readonly Method[];
export type EapMethod = (typeof EAP_METHODS)[number];

/** How a client says and proves who it is. */
export interface Credentials {
  readonly method: EapMethod | 'eap-tls';
  readonly user: string;
  /** Empty of a certificate. */
  readonly password: string;
}

/** What people call each. */
export const METHOD_WORDS: Readonly<Record<ClientMethod, string>> = {
  pap: 'password (PAP)',
  chap: 'challenge (CHAP)',
  'eap-md5': 'EAP-MD5',
  'eap-ttls': 'EAP-TTLS with PAP',
  peap: 'PEAP with MS-CHAPv2',
  'eap-tls': 'EAP-TLS',
  mac: 'MAC address',
};

/** Packets of one exchange that are told, and attributes of one packet: a packet has room for two thousand empty ones. */
export const MOST_TOLD = { packets: 60, attributes: 200 } as const;

/** One packet of an exchange, as one reads it. */
export interface SaidPacket {
  /** From whom it came: us, or the server. */
  readonly from: 'us' | 'server';
  /** `Access-Request` and so on. */
  readonly name: string;
  /** Milliseconds after the first packet. */
  readonly at: number;
  readonly attributes: readonly SaidAttribute[];
}

/** What the controller says (Reply-Message) when it does not keep who is asked for: devices ask the next server then. */
export const NOT_KEPT = 'Not kept here';

/** How asking a server ended. */
export const ENDS = [
  'accepted',
  'rejected',
  /** The controller itself does not keep who was asked for: the next server is asked. */
  'unkept',
  /** The name is known nowhere. */
  'unresolved',
  /** A rule, or no way, kept the request from getting there. */
  'unreachable',
  /** Its host is there, and says that nothing listens at that port. */
  'closed',
  'silent',
  /** An answer came that was not made with our secret. */
  'unproven',
  /** An answer came with our secret and without the Message-Authenticator that is demanded. */
  'unsigned',
  /** What came was no packet, or made no sense. */
  'senseless',
  /** The server wants another method than the one tried. */
  'other-method',
  /** The certificate that it shows is not of the authority that it is to be of: no password went there. */
  'untrusted',
] as const;
export type End = (typeof ENDS)[number];

/** What came of asking a server for somebody. */
export interface Exchange {
  readonly end: End;
  /** Why, in a sentence, where the end alone does not say it. */
  readonly why: string;
  /** Address that was asked; null where the name is not known. */
  readonly address: string | null;
  readonly packets: readonly SaidPacket[];
  /** How often the same request was sent, and how long all of it took, in milliseconds. */
  readonly sent: number;
  readonly ms: number;
  /** Of what accepted or rejected: Filter-Id, what it says of a VLAN, how long the session may last, in seconds. */
  readonly filterIds: readonly string[];
  readonly vlan: { readonly kind: 'id' | 'name' | 'none' | 'wrong'; readonly text: string };
  readonly sessionSeconds: number | null;
  /** The certificate that it showed, and whether it is believed: by methods that begin with TLS. */
  readonly certificate?: SeenCertificate & { readonly trust: Trust };
  /** Whether it brought keys for the air (RFC 2548), which WPA-Enterprise needs: by EAP methods that let in. */
  readonly keys?: boolean;
  /** What it wants said with each word of accounting (Class, RFC 2865 §5.25), in hex digits; absent: nothing. */
  readonly echo?: readonly string[];
  /** The keys of a ring that it names (RFC 2868 §3.5), without themselves; absent: none. */
  readonly ring?: readonly NamedKey[];
}

/** A key of a ring that a server names, without itself. */
export interface NamedKey {
  /** Where it leads. */
  readonly vlan: Exchange['vlan'];
  /** It is the one that was given. */
  readonly given?: true;
  /** It is none that anybody could give: too short, too long, or of other signs (IEEE 802.11-2020 Annex J.4.1). */
  readonly unfit?: true;
}

/** Most values of Class that are given back: more than a packet of accounting has room for are none. */
export const MOST_ECHOED = 8;

/** Most keys of one answer that are told: as many fit into one. */
export const MOST_NAMED_KEYS = 194;

/** Whom a server is asked for. */
export interface AskedFor {
  readonly method: ClientMethod;
  /** Name of the user, or a MAC address. */
  readonly user: string;
  /** None of a MAC address. */
  readonly password: string;
  /** The address of the client that asks; absent: that of a probe. */
  readonly mac?: string;
  /** Name of the SSID, or of the port, that it asks at. */
  readonly at?: string;
  /** The key of a ring that it gives there: compared with those that the answer names, and not sent. */
  readonly gives?: string;
}

/** A server as whoever asks it has to know it. */
export interface AskedServer {
  readonly name: string;
  /** It is the controller of whoever asks. */
  readonly own?: true;
  /** Address or name; empty of the controller. */
  readonly address: string;
  readonly port: number;
  readonly secret: string;
  /** Seconds until a request is sent again, and how often it is sent in all. */
  readonly timeout: number;
  readonly tries: number;
  /** How MAC addresses are written for it. */
  readonly macs: MacFormat;
  /** Whether its answers may lack a Message-Authenticator. */
  readonly unsigned?: true;
  /** Certificates of the authority by which it is believed, as PEM; absent: whoever it is, is shown. */
  readonly authority?: string;
  /** A name that its certificate is for; absent: any. */
  readonly certificateName?: string;
}
