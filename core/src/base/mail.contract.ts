import { flaw, type Flaw } from './flaw';

/** How the way to a mail server is kept secret: from the first octet (RFC 8314 §3.3), after asking for it (RFC 3207), or not at all. */
export const MAIL_SECURITIES = ['tls', 'starttls', 'none'] as const;

/** The server that mails are handed to (RFC 6409), and who they are from. */
export interface MailFields {
  /** Name or address. */
  readonly host: string;
  readonly port: number;
  readonly security: (typeof MAIL_SECURITIES)[number];
  /** Who signs in there; empty: nobody has to. */
  readonly user: string;
  /** Address, and name, that mails are from. */
  readonly from: string;
  readonly fromName: string;
  /** Certificate of the authority by which the server is believed, as PEM; empty: those that everybody believes. */
  readonly authority: string;
}
/** How mail is sent, without the password. */
export interface MailView {
  readonly fields: MailFields;
  /** Counts the changes. */
  readonly version: number;
  readonly hasSecret: boolean;
}
/** What is to be kept: the version that was seen (0: there was none), and a password; null: as it is. */
export interface MailChange {
  readonly version: number;
  readonly fields: MailFields;
  readonly secret: string | null;
}
/** What came of a mail. */
export interface MailTried {
  readonly ok: boolean;
  /** What happened, in words. */
  readonly words: string;
  /** What the server itself said; empty: nothing. */
  readonly said: string;
}

/** Characters of a mail address (RFC 5321 §4.5.3.1.3), of a name, of a certificate. */
export const [MOST_ADDRESS, MOST_MAIL_NAME, MOST_PEM] = [254, 80, 20_000];

const HOST = /^[a-z0-9:]([a-z0-9.:-]{0,251}[a-z0-9])?$/i;
const PEM = /^\s*-----BEGIN CERTIFICATE-----[^]+-----END CERTIFICATE-----\s*$/;

/** Whether a text is a mail address that one mail can be sent to: one at sign, a host, nothing that parts or ends a line. */
export const isMailAddress = (text: string): boolean =>
  text.length <= MOST_ADDRESS && /^[^\s@"(),:;<>[\\\]]{1,64}@[^\s@"(),:;<>[\\\]]+$/u.test(text);

/** What is wrong with how mail is to be sent. @param hasSecret whether a password is kept, or comes along. */
export function mailFlaws(fields: MailFields, hasSecret: boolean): Flaw[] {
  const { host, port, from, fromName, user, authority, security } = fields;
  const flaws: Flaw[] = [];
  const say = (field: keyof MailFields | 'secret', message: string): void =>
    void flaws.push(flaw(`mail.${field}`, message, field));
  if (!HOST.test(host)) say('host', 'Write a name or an address, such as mail.skerrow.example.');
  if (!Number.isInteger(port) || port < 1 || port > 65_535)
    say('port', 'A TCP port from 1 to 65535; 465 and 587 are usual.');
  if (!isMailAddress(from)) say('from', 'Write a mail address, such as guests@skerrow.example.');
  if (fromName.length > MOST_MAIL_NAME) say('fromName', `A name has ${MOST_MAIL_NAME} characters at most.`);
  if (user !== '' && !hasSecret) say('secret', 'Whoever signs in there needs a password.');
  if (authority !== '' && !PEM.test(authority))
    say('authority', 'As PEM: it begins with -----BEGIN CERTIFICATE----- and ends with -----END CERTIFICATE-----.');
  if (authority !== '' && security === 'none') say('authority', 'Without encryption no certificate is looked at.');
  return flaws;
}
