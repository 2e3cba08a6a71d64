/**
 * Frames of clients that go from an AP to a gateway inside IP packets: GRE (RFC 2784) with a key (RFC 2890 §2.1) that is the VLAN ID of
 * their segment, whole Ethernet frames in it (protocol type 0x6558, as in RFC 7637 §3.2).
 */
export interface ApTunnelDocument {
  /** Where the gateway takes them out: its own address in the AP's management VLAN. */
  readonly to: string;
  /** Octets of the largest IP packet that goes through in one piece; TCP is told accordingly (RFC 9293 §3.7.1), larger ones are parted. */
  readonly mtu: number;
}

/** The other end. */
export interface GatewayTunnelDocument {
  /** Subnets that APs send from; what comes from elsewhere is dropped. */
  readonly from: readonly string[];
  /** Keys that it takes, each the VLAN that the frames are in from there on; ascending. */
  readonly vlans: readonly number[];
  readonly mtu: number;
  /** What it takes from APs of other sites, which comes through the tunnels between sites; ordered by name. */
  readonly landings?: readonly GatewayLandingDocument[];
}

/** What a gateway takes of another site. */
export interface GatewayLandingDocument extends Omit<GatewayTunnelDocument, 'landings'> {
  /** Its name. */
  readonly name: string;
  /** Those whose clients it hands nothing of each other. */
  readonly apart?: readonly number[];
}

/** Protocol number of GRE (IANA). */
export const GRE = 47;

/**
 * What a tunnel adds to a frame, in octets: the outer IPv4 header (RFC 791 §3.1), GRE's own (RFC 2784 §2), its key (RFC 2890 §2), and
 * the client's Ethernet header, which is inside (IEEE 802.3-2022 §3.1.1).
 */
export const TUNNEL_PARTS = { ip: 20, gre: 4, key: 4, ethernet: 14 } as const;
export const TUNNEL_OCTETS = Object.values(TUNNEL_PARTS).reduce((sum, octets) => sum + octets, 0);
/** Octets of the largest IP packet on Ethernet (RFC 894). */
export const ETHERNET_MTU = 1500;
export const TUNNEL_MTU = ETHERNET_MTU - TUNNEL_OCTETS;
/** Headers of IPv4 and TCP without options (RFC 791, RFC 9293). */
export const TCP_HEADERS = 40;
/** Octets of the largest TCP segment that goes through in one piece. */
export const TUNNEL_SEGMENT = TUNNEL_MTU - TCP_HEADERS;

/** What of a cable's speed for TCP a tunnel leaves: segments are smaller, frames as large. @param mtu octets of a packet that goes through in one piece. */
export const tunnelShare = (mtu: number): number => (mtu - TCP_HEADERS) / (ETHERNET_MTU - TCP_HEADERS);
