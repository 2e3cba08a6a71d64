/** What the octets of an attribute are. `secret`: never shown. */
export type ValueKind =
  | 'text'
  | 'octets'
  | 'number'
  | 'address'
  | 'address6'
  | 'time'
  | 'secret'
  | 'tagged number'
  | 'tagged text'
  | 'vendor'
  | 'eap';

/** An attribute as it is known. */
export interface Known {
  readonly name: string;
  readonly kind: ValueKind;
  /** Names of numbers. */
  readonly values?: Readonly<Record<number, string>>;
}

/** Types that the code asks for by name. */
export const [USER_NAME, USER_PASSWORD, CHAP_PASSWORD] = [1, 2, 3] as const;
export const [NAS_IP_ADDRESS, NAS_PORT, SERVICE_TYPE] = [4, 5, 6] as const;
export const [FILTER_ID, REPLY_MESSAGE, STATE, CLASS] = [11, 18, 24, 25] as const;
export const [SESSION_TIMEOUT, IDLE_TIMEOUT, TERMINATION_ACTION] = [27, 28, 29] as const;
export const [CALLED_STATION, CALLING_STATION, NAS_IDENTIFIER, PROXY_STATE] = [30, 31, 32, 33] as const;
export const [VENDOR_SPECIFIC, CHAP_CHALLENGE, NAS_PORT_TYPE] = [26, 60, 61] as const;
export const [TUNNEL_TYPE, TUNNEL_MEDIUM, TUNNEL_PASSWORD, TUNNEL_GROUP] = [64, 65, 69, 81] as const;
export const [ACCT_STATUS_TYPE, ACCT_DELAY_TIME, ACCT_INPUT_OCTETS, ACCT_OUTPUT_OCTETS] = [40, 41, 42, 43] as const;
export const [ACCT_SESSION_ID, ACCT_SESSION_TIME, ACCT_TERMINATE_CAUSE] = [44, 46, 49] as const;
export const [ACCT_INPUT_GIGAWORDS, ACCT_OUTPUT_GIGAWORDS, EVENT_TIMESTAMP] = [52, 53, 55] as const;
export const [FRAMED_IP_ADDRESS, FRAMED_IPV6_ADDRESS, NAS_IPV6_ADDRESS] = [8, 168, 95] as const;
export const [EAP_MESSAGE, MESSAGE_AUTHENTICATOR, NAS_PORT_ID, ERROR_CAUSE] = [79, 80, 87, 101] as const;

/** Attributes by type: RFC 2865, 2866, 2868, 2869, 3162, 3579, 3580, 4675, 5176. */
export const DICTIONARY: Readonly<Record<number, Known>> = {
  1: { name: 'User-Name', kind: 'text' },
  2: { name: 'User-Password', kind: 'secret' },
  3: { name: 'CHAP-Password', kind: 'secret' },
  4: { name: 'NAS-IP-Address', kind: 'address' },
  5: { name: 'NAS-Port', kind: 'number' },
  6: {
    name: 'Service-Type',
    kind: 'number',
    values: {
      1: 'Login',
      2: 'Framed',
      5: 'Outbound',
      6: 'Administrative',
      8: 'Authenticate Only',
      10: 'Call Check',
      17: 'Authorize Only',
    },
  },
  8: { name: 'Framed-IP-Address', kind: 'address' },
  11: { name: 'Filter-Id', kind: 'text' },
  12: { name: 'Framed-MTU', kind: 'number' },
  18: { name: 'Reply-Message', kind: 'text' },
  24: { name: 'State', kind: 'octets' },
  25: { name: 'Class', kind: 'octets' },
  26: { name: 'Vendor-Specific', kind: 'vendor' },
  27: { name: 'Session-Timeout', kind: 'number' },
  28: { name: 'Idle-Timeout', kind: 'number' },
  29: { name: 'Termination-Action', kind: 'number', values: { 0: 'Default', 1: 'RADIUS-Request' } },
  30: { name: 'Called-Station-Id', kind: 'text' },
  31: { name: 'Calling-Station-Id', kind: 'text' },
  32: { name: 'NAS-Identifier', kind: 'text' },
  33: { name: 'Proxy-State', kind: 'octets' },
  40: {
    name: 'Acct-Status-Type',
    kind: 'number',
    values: { 1: 'Start', 2: 'Stop', 3: 'Interim-Update', 7: 'Accounting-On', 8: 'Accounting-Off' },
  },
  41: { name: 'Acct-Delay-Time', kind: 'number' },
  42: { name: 'Acct-Input-Octets', kind: 'number' },
  43: { name: 'Acct-Output-Octets', kind: 'number' },
  44: { name: 'Acct-Session-Id', kind: 'text' },
  46: { name: 'Acct-Session-Time', kind: 'number' },
  49: {
    name: 'Acct-Terminate-Cause',
    kind: 'number',
    values: { 1: 'User Request', 2: 'Lost Carrier', 4: 'Idle Timeout', 5: 'Session Timeout', 6: 'Admin Reset' },
  },
  52: { name: 'Acct-Input-Gigawords', kind: 'number' },
  53: { name: 'Acct-Output-Gigawords', kind: 'number' },
  55: { name: 'Event-Timestamp', kind: 'time' },
  56: { name: 'Egress-VLANID', kind: 'number' },
  58: { name: 'Egress-VLAN-Name', kind: 'text' },
  60: { name: 'CHAP-Challenge', kind: 'octets' },
  61: { name: 'NAS-Port-Type', kind: 'number', values: { 5: 'Virtual', 15: 'Ethernet', 19: 'Wireless 802.11' } },
  64: { name: 'Tunnel-Type', kind: 'tagged number', values: { 13: 'VLAN' } },
  65: { name: 'Tunnel-Medium-Type', kind: 'tagged number', values: { 6: 'IEEE-802' } },
  69: { name: 'Tunnel-Password', kind: 'secret' },
  79: { name: 'EAP-Message', kind: 'eap' },
  80: { name: 'Message-Authenticator', kind: 'octets' },
  81: { name: 'Tunnel-Private-Group-ID', kind: 'tagged text' },
  85: { name: 'Acct-Interim-Interval', kind: 'number' },
  87: { name: 'NAS-Port-Id', kind: 'text' },
  95: { name: 'NAS-IPv6-Address', kind: 'address6' },
  101: {
    name: 'Error-Cause',
    kind: 'number',
    values: {
      201: 'Residual Session Context Removed',
      401: 'Unsupported Attribute',
      402: 'Missing Attribute',
      403: 'NAS Identification Mismatch',
      404: 'Invalid Request',
      405: 'Unsupported Service',
      407: 'Invalid Attribute Value',
      501: 'Administratively Prohibited',
      503: 'Session Context Not Found',
      506: 'Resources Unavailable',
      508: 'Multiple Session Selection Unsupported',
    },
  },
  168: { name: 'Framed-IPv6-Address', kind: 'address6' },
};

/** Types by name, to read what people write. */
export const TYPES: ReadonlyMap<string, number> = new Map(
  Object.entries(DICTIONARY).map(([type, { name }]) => [name.toLowerCase(), Number(type)]),
);
