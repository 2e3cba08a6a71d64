import { createTransport } from 'nodemailer';
import type { MailFields, MailTried } from '@iron-lattice/core/base';
import type { Letter } from '../roster/mail-offer';

/** Milliseconds until a connection stands, until the server greets, and that it may be silent. */
const [CONNECT_MS, GREET_MS, SILENT_MS] = [8000, 8000, 15_000];
/** Characters of what a server said that are told. */
const MOST_SAID = 300;

/**
 * Hands a mail to a server (SMTP, RFC 5321). It never fails: what went wrong is said.
 * @param secret password of whoever signs in there.
 */
export async function sendMail(
  fields: MailFields,
  secret: string | null,
  { to, subject, text }: Letter,
): Promise<MailTried> {
  const { host, port, security, user, from, fromName, authority } = fields;
  const transport = createTransport({
    ...{ host, port, secure: security === 'tls', requireTLS: security === 'starttls', ignoreTLS: security === 'none' },
    ...(user === '' ? {} : { auth: { user, pass: secret ?? '' } }),
    ...(authority === '' ? {} : { tls: { ca: [authority] } }),
    ...{ connectionTimeout: CONNECT_MS, greetingTimeout: GREET_MS, socketTimeout: SILENT_MS },
    ...{ disableFileAccess: true, disableUrlAccess: true },
  });
  try {
    const sent = await transport.sendMail({
      ...{ from: { name: fromName, address: from }, to: { name: '', address: to }, subject, text },
      ...{ disableFileAccess: true, disableUrlAccess: true },
    });
    return { ok: true, words: `${host} took the mail to ${to}.`, said: saidBy(sent.response) };
  } catch (error) {
    return { ok: false, words: wordsOf(error as SmtpError, fields, to), said: saidBy((error as SmtpError).response) };
  } finally {
    transport.close();
  }
}

interface SmtpError extends Error {
  readonly code?: string;
  readonly response?: string;
}

function wordsOf(
  { code = '', message }: SmtpError,
  { host, port, security, user, from }: MailFields,
  to: string,
): string {
  const where = `${host}, TCP port ${port}`;
  if (/EDNS|ENOTFOUND|EAI_AGAIN/.test(`${code} ${message}`))
    return `Nobody knows the name ${host}. Look at how it is written, or at the controller’s name server.`;
  if (/ECONNREFUSED/.test(message)) return `Nothing listens at ${where}. Look at the port: 465 and 587 are usual.`;
  if (code === 'ETIMEDOUT' || /ETIMEDOUT|EHOSTUNREACH|ENETUNREACH/.test(message))
    return `${where} does not answer. Something on the way may drop what is sent there.`;
  if (code === 'EAUTH') return `${host} does not let “${user}” sign in. Look at the name and the password.`;
  if (code === 'EENVELOPE') return `${host} takes no mail from ${from} to ${to}.`;
  if (code === 'ETLS' || /certificate|self.signed|SSL|TLS/i.test(message))
    return security === 'none'
      ? `${host} wants encryption. Choose STARTTLS or TLS.`
      : `${where}: encryption could not be agreed upon (${plain(message)}). Look at the port, and at whose certificate it shows.`;
  return `${where} did not take the mail: ${plain(message)}`;
}

const plain = (text: string): string => text.replace(/[^\x20-\x7e]+/g, ' ').slice(0, MOST_SAID);
const saidBy = (text: string | undefined): string => plain(text ?? '').trim();
