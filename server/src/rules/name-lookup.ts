import dns from 'node:dns';

/** How long a name server has to answer, in milliseconds. */
const PATIENCE_MS = 2000;
/** Most names of one question that are looked up, and addresses of one that are taken. */
const MOST_NAMES = 8;
const MOST_ADDRESSES = 64;

/** A name of the DNS and the addresses it stands for (RFC 1035 §3.4.1, RFC 3596 §2.1); none where it is not known. */
export interface LookedUp {
  readonly name: string;
  readonly addresses: readonly string[];
}

/** Looks names up at the controller’s own name servers. Never fails: who does not answer knows nothing. */
export async function lookUp(names: readonly string[]): Promise<LookedUp[]> {
  const resolver = new dns.promises.Resolver({ timeout: PATIENCE_MS, tries: 1 });
  resolver.setServers(dns.getServers());
  const none = (): string[] => [];
  const late = setTimeout(() => resolver.cancel(), 2 * PATIENCE_MS);
  try {
    return await Promise.all(
      names.slice(0, MOST_NAMES).map(async (name) => {
        const found = await Promise.all([resolver.resolve4(name).catch(none), resolver.resolve6(name).catch(none)]);
        return { name, addresses: found.flat().slice(0, MOST_ADDRESSES) };
      }),
    );
  } finally {
    clearTimeout(late);
  }
}
