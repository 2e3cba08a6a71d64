import type { FirstUplink } from '../document';
import type { HardwareSheet } from '../hardware';

/** A device that is ours, as far as compiling needs to know it. */
export interface RosterDevice {
  readonly id: string;
  readonly siteId: string;
  readonly name: string;
  readonly serial: string;
  readonly model: string;
  /** Supplied for a model we ship no sheet of. */
  readonly sheet?: HardwareSheet;
  /** Lower case with colons; absent where it is not known. */
  readonly mac?: string;
  /** The address it was last heard to have; absent where none was. */
  readonly given?: string;
  /** Its own address in the management segment; absent: given to it (DHCP). */
  readonly address?: StaticAddress;
  /** Whether its status light is to stay off. */
  readonly lightOff?: true;
  /** Of a gateway: what somebody said at its own page of how it comes to an address; absent: nothing. */
  readonly first?: FirstUplink;
  /** Whether it is expected at its site and nobody took it in yet: it is told nothing, and what is said of it waits for it. */
  readonly expected?: true;
}

/** A management address that a person gave a device. Canonical text. */
export interface StaticAddress {
  readonly address: string;
  /** Bits of the network. */
  readonly length: number;
  readonly gateway: string;
  readonly dns: readonly string[];
}

/** A cable between two of our devices, or a link by radio, as their neighbour reports tell it. */
export interface Link {
  readonly a: LinkEnd;
  readonly b: LinkEnd;
  /** Which end alone reports it; absent: both do. */
  readonly only?: 'a' | 'b';
  /** Of a link by radio: which end hangs on the other; absent: it is a cable. */
  readonly hangs?: 'a' | 'b';
}
export interface LinkEnd {
  readonly deviceId: string;
  readonly port: string;
}
