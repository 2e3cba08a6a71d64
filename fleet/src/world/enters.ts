import type { Credentials } from '@iron-lattice/core/radius';

/** How a client of the world says and proves who it is. */
export interface Enters extends Credentials {
  /** By which authority it believes servers: that of the stand-ins; absent: it believes whoever answers. */
  readonly believes?: 'stand-ins';
}
