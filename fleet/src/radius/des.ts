import { createCipheriv } from 'node:crypto';
import type { Des } from '@iron-lattice/core/radius';

/** One block of DES: of the triple one with three times the same key, which OpenSSL still has. */
export const des: Des = (key, block) => {
  const cipher = createCipheriv('des-ede3-ecb', Buffer.concat([key, key, key]), null).setAutoPadding(false);
  return new Uint8Array(Buffer.concat([cipher.update(block), cipher.final()]));
};
