/** What a box is in the network; also the `{kind}` of device names, in its short form. */
export type DeviceKind = 'gateway' | 'switch' | 'ap';

/** What a port is built for. `edge`: devices; `trunk`: towards other network devices; `wan`: a provider. */
export type PortRole = 'edge' | 'trunk' | 'wan';

export type Band = '2.4' | '5' | '6';
/** Bands in GHz, the lowest first. */
export const BANDS: readonly Band[] = ['2.4', '5', '6'];

export interface SheetPort {
  readonly name: string;
  readonly role: PortRole;
  /** Megabits a second. */
  readonly speed: number;
  /** Most power the port can give, in watts (IEEE 802.3 clause 145); absent when it gives none. */
  readonly poe?: number;
  /** Of a gateway’s port for the inside: it can be made one to a provider. */
  readonly either?: true;
  /** It is a modem of mobile networks, built in. */
  readonly modem?: true;
}

export interface SheetRadio {
  readonly band: Band;
  readonly streams: number;
  /** Widest channel, in MHz. */
  readonly width: number;
  /** Most EIRP in dBm; absent: as the law allows. */
  readonly eirp?: number;
  /** Generation of its frames; absent: HE. */
  readonly phy?: 'HT' | 'VHT' | 'HE' | 'EHT';
}

/** An open description of what a model can do. */
export interface HardwareSheet {
  readonly format: 'iron-lattice.hardware/1';
  readonly model: string;
  readonly title: string;
  readonly kind: DeviceKind;
  readonly ports: readonly SheetPort[];
  readonly radios: readonly SheetRadio[];
  /** Most SSIDs one radio can send; 0 without radios. */
  readonly ssidsPerRadio: number;
  /** Most VLANs it can hold at once; absent: all 4094. */
  readonly vlans?: number;
  /** Of a switch: most VLANs that it routes between; absent: it does not route. */
  readonly routes?: number;
  /** Most VLANs that it shares the clients of one SSID among; absent: any number. */
  readonly pooled?: number;
  /** Most clients that it knows by their MAC addresses; absent: any number. */
  readonly knownClients?: number;
  /** Most groups of ports that act as one (IEEE 802.1AX); absent: any number. */
  readonly groups?: number;
  /** Most rules of one list of its; absent: any number. */
  readonly rules?: number;
  /** Most power its ports give together, in watts; absent when they give none. */
  readonly poeBudget?: number;
}
