import type { DeviceDocument } from '@iron-lattice/core/document';
import type { MeshReport } from '@iron-lattice/core/line';
import type { KeyRing } from './rings';
import type { WorldDevice } from './world-file';
import type { WorldRouter } from './world-router';

/** How an AP hangs on another. */
export interface HangsOn extends Omit<MeshReport, 'parent'> {
  readonly on: Box;
}

/** One device of the world. */
export interface Box {
  readonly device: WorldDevice;
  /** What it does, where it is a router of somebody else’s. */
  router?: WorldRouter;
  /** What it runs at this moment, kept or on trial. */
  document: DeviceDocument;
  secrets: Readonly<Record<string, string>>;
  /** Keys of rings by the SSID's id. */
  readonly rings: Map<string, KeyRing>;
  powered: boolean;
  /** Far ends by own port name. */
  readonly cables: Map<string, { serial: string; port: string }>;
  /** What it hangs on by radio, and who hangs on it. */
  hangs: HangsOn | null;
  hung: Box[];
  /** Boxes that cables join to it, itself included; a change here cannot matter elsewhere. */
  island: Box[];
}

/** Where a frame can be: inside a box, in a VLAN. */
export interface Spot {
  readonly box: Box;
  readonly vlan: number;
  /** Of an AP: in its tunnel's end, which no port of it is joined to; of one to another site the address there. */
  readonly tunnel?: true | string;
}
