import { contains, parsePrefix, type Prefix } from '@iron-lattice/core/address';

/** Networks that are an operator's own: RFC 1918 §3, RFC 6598 §7, RFC 3927 §2.1, RFC 1122 §3.2.1.3 (g). */
const OWN = ['10.0.0.0/8', '172.16.0.0/12', '192.168.0.0/16', '100.64.0.0/10', '169.254.0.0/16', '127.0.0.0/8'].map(
  (text) => parsePrefix(text)!,
);

/** Whether a prefix lies in networks that are nobody else's. */
export const isOwnSpace = (prefix: Prefix): boolean => OWN.some((own) => contains(own, prefix));
