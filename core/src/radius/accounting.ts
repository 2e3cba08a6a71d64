import { hexToBytes } from '@noble/hashes/utils.js';
import { parseIp } from '../address';
import {
  ACCT_DELAY_TIME,
  ACCT_INPUT_GIGAWORDS,
  ACCT_INPUT_OCTETS,
  ACCT_OUTPUT_GIGAWORDS,
  ACCT_OUTPUT_OCTETS,
  ACCT_SESSION_ID,
  ACCT_SESSION_TIME,
  ACCT_STATUS_TYPE,
  ACCT_TERMINATE_CAUSE,
  CLASS,
  EVENT_TIMESTAMP,
  FRAMED_IP_ADDRESS,
  SERVICE_TYPE,
  USER_NAME,
} from './dictionary';
import type { Attribute } from './packet';
import { callAttributes, type Asker } from './request';
import { nasAddress, numberAttribute, textAttribute } from './values';

/** Kinds of accounting by their numbers (RFC 2866 §5.1, RFC 2869 §2.1), and why a session ended (RFC 2866 §5.10). */
export const ACCOUNTED = { start: 1, stop: 2, interim: 3 } as const;
export const ENDED_BY = { asked: 1, lost: 2, idle: 4, over: 5, reset: 6 } as const;

/** A session, as far as it is accounted. */
export interface AccountedSession {
  readonly id: string;
  /** Name of the user, or the MAC address in the way the server wants it. */
  readonly user: string;
  readonly mac: string;
  /** Name of the SSID or port. */
  readonly at: string;
  readonly address: string | null;
  /** Seconds that it has lasted. */
  readonly seconds: number;
  /** Octets to the client and from it. */
  readonly down: number;
  readonly up: number;
  /** Values of Class that the server wants back, in hex digits. */
  readonly echo?: readonly string[];
}

/**
 * What an Accounting-Request says of a session (RFC 2866 §5, RFC 2869 §5.1, §5.2). Octets are counted as the device sees them: its input is
 * what came from the client.
 * What the server wants back is given as it came (Class, RFC 2865 §5.25).
 * @param at moment of the event, in seconds since 1970. @param delay seconds that went by since then. @param cause of a stop.
 */
export function accountingAttributes(
  by: Asker,
  status: keyof typeof ACCOUNTED,
  session: AccountedSession,
  { at, delay, cause }: { readonly at: number; readonly delay: number; readonly cause?: keyof typeof ENDED_BY },
): Attribute[] {
  const asked = { method: 'mac' as const, user: session.user, password: '', mac: session.mac, at: session.at };
  const octets = (low: number, high: number, count: number): Attribute[] => {
    const more = Math.floor(count / 2 ** 32);
    return [numberAttribute(low, count % 2 ** 32), ...(more > 0 ? [numberAttribute(high, more)] : [])];
  };
  return [
    numberAttribute(ACCT_STATUS_TYPE, ACCOUNTED[status]),
    textAttribute(ACCT_SESSION_ID, session.id),
    textAttribute(USER_NAME, session.user),
    ...callAttributes(by, asked).filter(({ type }) => type !== SERVICE_TYPE),
    ...(session.echo ?? []).map((hex) => ({ type: CLASS, value: hexToBytes(hex) })),
    ...addressOf(session.address),
    numberAttribute(EVENT_TIMESTAMP, Math.floor(at)),
    numberAttribute(ACCT_DELAY_TIME, Math.max(0, Math.floor(delay))),
    ...(status === 'start'
      ? []
      : [
          numberAttribute(ACCT_SESSION_TIME, Math.floor(session.seconds)),
          ...octets(ACCT_INPUT_OCTETS, ACCT_INPUT_GIGAWORDS, Math.floor(session.up)),
          ...octets(ACCT_OUTPUT_OCTETS, ACCT_OUTPUT_GIGAWORDS, Math.floor(session.down)),
        ]),
    ...(cause === undefined ? [] : [numberAttribute(ACCT_TERMINATE_CAUSE, ENDED_BY[cause])]),
  ];
}

/** An IPv4 address of a client (RFC 2865 §5.8); others are not said. */
function addressOf(address: string | null): Attribute[] {
  if (address === null || parseIp(address)?.version !== 4) return [];
  return [{ type: FRAMED_IP_ADDRESS, value: nasAddress(address)[0]!.value }];
}
