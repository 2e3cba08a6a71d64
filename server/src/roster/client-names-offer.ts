import { offer } from '../platform/offers';

/** Names that people gave clients, by MAC address: of those of some. */
export type ClientNamer = (macs: readonly string[]) => Promise<ReadonlyMap<string, string>>;

/** What clients are called: by people, else by themselves (their host names, RFC 2132 §3.14). */
export const CLIENT_HOSTS = offer<ClientNamer>('what clients are called');

/** Whoever shows clients shows them by the name that people gave them. */
export const CLIENT_NAMES = offer<ClientNamer>('what people call clients');
