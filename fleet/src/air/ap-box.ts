import type { HardwareSheet } from '@iron-lattice/core/hardware';

/** A box as far as the air knows it. */
export interface ApBox {
  readonly serial: string;
  readonly model: string;
  readonly mac: string;
  readonly sheet?: HardwareSheet;
}
