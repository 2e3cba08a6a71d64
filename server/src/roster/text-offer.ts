import type { MailTried } from '@iron-lattice/core/base';
import { offer } from '../platform/offers';

/** A text message. */
export interface Message {
  /** Phone number as of E.164 §6.2. */
  readonly to: string;
  readonly text: string;
}

/**
 * Sends a text message, now. @param personId for whom; null: for the controller itself, which limits by itself what it sends.
 * @throws AppError `texts.none` where nothing is said of how, `mail.many`.
 */
export type Texter = (message: Message, personId: string | null) => Promise<MailTried>;

/** Text messages, for whoever has something to tell. */
export const TEXTS = offer<Texter>('text messages');
