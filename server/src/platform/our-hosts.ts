import { isIP } from 'node:net';

/**
 * Tells whether a request is meant for this controller, by its Host field (RFC 9110 §7.2): a page of another site whose
 * name was made to lead here names that site. Addresses and `localhost` cannot be another's name.
 * @param publicUrl where the controller is found by name, if it is.
 */
export function ourHosts(publicUrl: string | null): (host: string) => boolean {
  const name = publicUrl === null ? null : new URL(publicUrl).hostname;
  return (host) => {
    if (!URL.canParse(`http://${host}`)) return false;
    const { hostname } = new URL(`http://${host}`);
    return isIP(hostname.replace(/^\[|\]$/g, '')) !== 0 || hostname === 'localhost' || hostname === name;
  };
}
