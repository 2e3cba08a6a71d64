/** Octets of what an issuer answers. */
const MOST_OCTETS = 256 * 1024;

/** Asks an issuer: what it says by another address is not followed, and what is too long is not read. */
export async function issuerFetch(url: string, init: RequestInit): Promise<Response> {
  const response = await fetch(url, { ...init, redirect: 'manual' });
  const chunks: Uint8Array[] = [];
  let size = 0;
  for await (const chunk of (response.body ?? []) as AsyncIterable<Uint8Array>) {
    size += chunk.length;
    if (size > MOST_OCTETS) throw new RangeError(`${new URL(url).host} says more than ${MOST_OCTETS} octets`);
    chunks.push(chunk);
  }
  const { status, headers } = response;
  return new Response(status === 204 || status === 304 ? null : Buffer.concat(chunks), { status, headers });
}
