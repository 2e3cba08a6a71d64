import { offer } from '../platform/offers';

/** Whether it is said how mail, and text messages, are sent. */
export type SendingTeller = () => Promise<{ readonly mail: boolean; readonly texts: boolean }>;

/** What can be sent, for whoever would. */
export const SENDING = offer<SendingTeller>('what can be sent');
