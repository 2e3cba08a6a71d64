import { randomUUID } from 'node:crypto';
import type { CheckedList, Slip } from '@iron-lattice/core/base';
import {
  checkCodeList,
  MOST_CODE_NAME,
  MOST_NEW_CODES,
  type CodeListMeans,
  type ListedCode,
} from '@iron-lattice/core/guests';
import { LEAST_VISIT, MOST_VISIT, type Intent } from '@iron-lattice/core/intent';
import { composeGuestNetwork, type GuestNetworkWish } from '@iron-lattice/core/lattice';
import { Joi, type Shapes } from '@iron-lattice/core/schema';
import type { TasksOf } from '../platform/heavy';
import { slipSheet } from './slips/slip-sheet';

/** Codes of a list that are to be made, or why they are none. */
export type ReadCodes =
  { readonly ok: true; readonly codes: readonly ListedCode[] } | { readonly ok: false; readonly reason: string };

declare module '../platform/heavy' {
  interface HeavyTasks {
    /** A guest network as it would be made, or what is wrong with what was said. */
    'guest-network': (
      intent: Intent,
      wish: GuestNetworkWish,
      portalPort: number | null,
    ) => ReturnType<typeof composeGuestNetwork>;
    /** A list of visit codes, looked at row by row. */
    'code-list': (table: readonly (readonly string[])[], means: CodeListMeans) => CheckedList<ListedCode>;
    /** Slips on pages, as PDF. */
    'slip-sheet': (slips: readonly Slip[]) => Promise<Uint8Array>;
    /** Reads visit codes that are to be made, as JSON. */
    'listed-codes': (bytes: Uint8Array) => ReadCodes;
  }
}

const codes = Joi.array()
  .items(
    Joi.object({
      name: Joi.string().max(MOST_CODE_NAME).required(),
      code: Joi.string()
        .min(6)
        .max(16)
        .pattern(/^[A-Z2-9]+$/)
        .allow(null)
        .required(),
      minutes: Joi.number().integer().min(LEAST_VISIT).max(MOST_VISIT).required(),
      useBy: Joi.string().isoDate().max(40).allow(null).required(),
      most: Joi.number().integer().min(1).max(1000).allow(null).required(),
      siteIds: Joi.array().items(Joi.string().uuid()).min(1).max(1000).unique().allow(null).required(),
    } satisfies Shapes<ListedCode>),
  )
  .min(1)
  .max(MOST_NEW_CODES)
  .required();

export const tasks: TasksOf<'guest-network' | 'code-list' | 'listed-codes' | 'slip-sheet'> = {
  'guest-network': (intent, wish, portalPort) => composeGuestNetwork(intent, wish, { idFor: randomUUID, portalPort }),
  'code-list': checkCodeList,
  'slip-sheet': slipSheet,
  'listed-codes': (bytes) => {
    let read: unknown;
    try {
      read = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes));
    } catch {
      return { ok: false, reason: 'Codes are sent as JSON.' };
    }
    const { error } = codes.validate(read, { convert: false });
    return error
      ? { ok: false, reason: `These are no codes: ${error.message}.` }
      : { ok: true, codes: read as ListedCode[] };
  },
};
