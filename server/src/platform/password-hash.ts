import { hash, verify } from '@node-rs/argon2';

/**
 * Argon2id (RFC 9106). What people choose is guessed by lists: OWASP's lower setting, 19 MiB and two passes. What was drawn with 59 bits is
 * guessed by no list: a tenth of that keeps thousands of them from taking minutes.
 */
const COSTS = {
  chosen: { memoryCost: 19_456, timeCost: 2, parallelism: 1 },
  drawn: { memoryCost: 4096, timeCost: 1, parallelism: 1 },
} as const;

/** A password as it is kept (PHC string format); worked out beside the event loop. */
export const hashPassword = (password: string, how: keyof typeof COSTS = 'chosen'): Promise<string> =>
  hash(password, COSTS[how]);

/** Whether a password is the one that is kept so. */
export const isPassword = (kept: string, password: string | Uint8Array): Promise<boolean> => verify(kept, password);
