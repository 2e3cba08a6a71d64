import { isMailAddress, type MailTried } from '@iron-lattice/core/base';
import { AppError } from '../platform/app-error';
import { offer } from '../platform/offers';

/** A mail of plain text. */
export interface Letter {
  readonly to: string;
  readonly subject: string;
  readonly text: string;
}

/**
 * Sends a mail, now. @param personId for whom; null: for the controller itself, which limits by itself what it sends.
 * @throws AppError `mail.none` where nothing is said of how, `mail.many`.
 */
export type Mailer = (letter: Letter, personId: string | null) => Promise<MailTried>;

/** Mail, for whoever has something to tell. */
export const MAIL = offer<Mailer>('mail');

/** @throws AppError `mail.flawed` where it is none. */
export function addressOf(text: string): string {
  const to = text.trim();
  if (isMailAddress(to)) return to;
  const message = 'Write one mail address, such as rin@skerrow.example.';
  throw new AppError('mail.flawed', message, [{ code: 'mail.to', message, field: 'to' }]);
}
