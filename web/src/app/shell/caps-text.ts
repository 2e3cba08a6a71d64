import type { Caps } from '@iron-lattice/core/traffic';

/** Caps as they are typed: in Mb/s, and a burst in milliseconds; empty: none. */
export interface CapsText {
  readonly clientDown: string;
  readonly clientUp: string;
  readonly allDown: string;
  readonly allUp: string;
  readonly burst: string;
}
export type CapsField = keyof CapsText;
export const NO_CAPS: CapsText = { clientDown: '', clientUp: '', allDown: '', allUp: '', burst: '' };

/** The field of core that each is. */
const FIELD_OF: Readonly<Record<CapsField, string>> = {
  clientDown: 'caps.client.down',
  clientUp: 'caps.client.up',
  allDown: 'caps.all.down',
  allUp: 'caps.all.up',
  burst: 'caps.burst',
};

export function capsText(caps: Caps | null | undefined): CapsText {
  const mbps = (kbps: number | null | undefined): string => (typeof kbps === 'number' ? `${kbps / 1000}` : '');
  return {
    ...{ clientDown: mbps(caps?.client?.down), clientUp: mbps(caps?.client?.up) },
    ...{ allDown: mbps(caps?.all?.down), allUp: mbps(caps?.all?.up) },
    burst: typeof caps?.burst === 'number' ? `${caps.burst}` : '',
  };
}

const NUMBER = /^\d{1,6}([.,]\d{1,3})?$/;
const cleaned = (text: string): string => text.trim().replace(/\s*(Mb\/s|Mbit\/s|ms)$/i, '');
const read = (text: string): number | null => {
  const plain = cleaned(text).replace(',', '.');
  return plain === '' ? null : Number(plain);
};

/** The caps that were typed; null: none. */
export function capsOf(text: CapsText): Caps | null {
  const kbps = (typed: string): number | null => {
    const mbps = read(typed);
    return mbps === null ? null : Math.round(mbps * 1000);
  };
  const pair = (down: string, up: string) => {
    const said = { down: kbps(down), up: kbps(up) };
    const kept = Object.entries(said).filter(([, value]) => value !== null);
    return kept.length > 0 ? Object.fromEntries(kept) : null;
  };
  const [client, all] = [pair(text.clientDown, text.clientUp), pair(text.allDown, text.allUp)];
  const burst = read(text.burst);
  if (!client && !all) return null;
  return { ...(client ? { client } : {}), ...(all ? { all } : {}), ...(burst === null ? {} : { burst }) };
}

/** What is wrong with a field: as it is typed, or as core said. */
export function capFlaw(text: CapsText, field: CapsField, said?: (field: string) => string | undefined): string {
  const typed = cleaned(text[field]);
  if (typed !== '' && !NUMBER.test(typed)) return 'A number, such as 20 or 2.5, or nothing.';
  return said?.(FIELD_OF[field]) ?? '';
}

/** Whether all of it can be read. */
export const capsReadable = (text: CapsText): boolean =>
  (Object.keys(FIELD_OF) as CapsField[]).every((field) => capFlaw(text, field) === '');

export const CAP_FIELDS: readonly string[] = Object.values(FIELD_OF);
