import {
  EXCEPTABLE,
  EXCEPTION_WORDS,
  ssidAt,
  type Operation,
  type Ssid,
  type SsidException,
} from '@iron-lattice/core/intent';
import type { SsidEdit } from './ssid-edit';
import { fieldsOf, textOf, type SsidText } from './ssid-text';

/** An SSID as one site has it, as it is typed. */
export interface HereText extends SsidText {
  readonly off: boolean;
  /** Whether the site has a passphrase of its own. */
  readonly own: boolean;
}

/** The fields of which a site says something of its own, in words; empty: none. */
export const otherwiseWords = (ssid: Ssid | null, siteId: string | null): string => {
  const said = ssid?.exceptions?.[siteId ?? ''] ?? {};
  const words = EXCEPTABLE.filter((field) => field in said).map((field) => EXCEPTION_WORDS[field]);
  return words.length < 2 ? words.join() : `${words.slice(0, -1).join(', ')} and ${words.at(-1)}`;
};

/** How an SSID is typed for one site. */
export function hereText(ssid: Ssid, siteId: string): HereText {
  const here = ssidAt(ssid, siteId);
  const own = Boolean(ssid.exceptions?.[siteId]?.passphrase);
  return { ...textOf(here, here.reach), off: here.off ?? false, own };
}

/** What was typed for one site, as far as it is not what all have. */
function exceptionOf(ssid: Ssid, text: HereText, passphrase: SsidException['passphrase']): SsidException {
  const of = (each: SsidText, off: boolean): Readonly<Record<string, unknown>> => {
    const fields = fieldsOf(each);
    return { ...fields, hidden: fields.hidden ?? false, steer: fields.steer ?? false, off };
  };
  const [wanted, shared] = [of(text, text.off), of(textOf(ssid, ssid.reach), ssid.off ?? false)];
  const said = EXCEPTABLE.filter((field) => field !== 'passphrase')
    .filter((field) => JSON.stringify(wanted[field] ?? null) !== JSON.stringify(shared[field] ?? null))
    .map((field) => [field, wanted[field] ?? null]);
  return { ...(Object.fromEntries(said) as SsidException), ...(passphrase ? { passphrase } : {}) };
}

/** Says for one site what was typed; nothing where it is what all have. @param seen the SSID as whoever types saw it. */
export function exceptionEdit(ssid: Ssid, seen: Ssid, siteId: string, text: HereText): SsidEdit {
  const before = seen.exceptions?.[siteId];
  const secret = text.own && text.passphrase !== '' ? crypto.randomUUID() : null;
  const kept = text.own ? (before?.passphrase ?? undefined) : undefined;
  const next = exceptionOf(ssid, text, secret ? { secret } : kept);
  const operation: Operation = {
    type: 'ssid.set',
    ssidId: ssid.id,
    // What a passphrase may be follows from what is asked for.
    from: { exceptions: before ? { [siteId]: before } : {}, ...(secret ? { security: ssid.security } : {}) },
    to: {
      exceptions: Object.keys(next).length > 0 ? { [siteId]: next } : {},
      ...(secret ? { security: ssid.security } : {}),
    },
  };
  return { operation, secrets: secret ? { [secret]: text.passphrase } : {}, id: ssid.id };
}
