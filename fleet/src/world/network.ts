import type { LeaseReport, UplinkReport } from '@iron-lattice/core/line';
import type { Paths } from '../paths/paths';
import type { Box, Spot } from './box';
import type { GuestDoor } from './guest-door';
import type { Admitted } from './keys';
import type { Namer } from './named';
import type { PortClient } from './port-door';
import type { AirClient, WiredClient, WorldDevice, WorldFile } from './world-file';

/** What of the world is looked at to answer. */
export interface Network {
  readonly file: WorldFile;
  box(serial: string): Box;
  addressOf(serial: string): string | null;
  ownGateway(box: Box): Spot | null;
  gatewayFrom(start: Spot): Spot | null;
  /** The router that a spot’s frames reach at an address; null: nobody answers there. */
  routerAt(start: Spot, address: string): Spot | null;
  wayTo(start: Spot, end: Box): Box[];
  faceOf(spot: Spot): string | null;
  lease(spot: Spot, mac: string): string | null;
  address6(spot: Spot, mac: string): string | null;
  readonly namer: Namer;
  readonly guests: GuestDoor;
  /** Where the controller answers. */
  readonly controller: string;
  admits(box: Box, client: AirClient): Admitted;
  /** Clients on cables at a box, and what becomes of each. */
  comersAt(box: Box): readonly { readonly client: WiredClient; readonly at: PortClient }[];
  hasUplink(box: Box): boolean;
  readonly paths: Pick<Paths<Box>, 'of' | 'at' | 'byKey' | 'far' | 'keeping'>;
  leasesOf(serial: string): readonly LeaseReport[];
  /** Whether a client says nothing, and hands nothing on. */
  isHushed(mac: string): boolean;
  uplinksOf(serial: string): readonly UplinkReport[];
  /** The AP that a client stands near. */
  servedBy(client: AirClient): string;
  seenFrom(serial: string): readonly { readonly address: string; readonly device: WorldDevice }[];
}
