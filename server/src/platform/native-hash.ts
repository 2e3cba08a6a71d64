import { createHash } from 'node:crypto';
import { hashWith } from '@iron-lattice/core/document';

/** SHA-256 (FIPS 180-4) of text in UTF-8 by OpenSSL, as 64 lower-case hex digits. */
export const nativeHash = (text: string): string => createHash('sha256').update(text, 'utf8').digest('hex');

hashWith(nativeHash);
