import type { MailTried } from '@iron-lattice/core/base';
import { readPage, textBody, type TextFields } from '@iron-lattice/core/guests';
import type { Message } from '../roster/text-offer';

/** Milliseconds that a gateway may take. */
const PATIENCE_MS = 10_000;
/** Octets of an answer that are read, and characters of it that are told. */
const [MOST_READ, MOST_SAID] = [4096, 300];

/** Hands a text message to a gateway by HTTP. It never fails: what went wrong is said. It goes nowhere that the gateway sends it on to. */
export async function sendText(fields: TextFields, secret: string | null, { to, text }: Message): Promise<MailTried> {
  const { url, header } = fields;
  const { host } = readPage(url)!;
  const { type, body } = textBody(fields, to, text);
  try {
    const answer = await fetch(url, {
      ...{ method: 'POST', body, redirect: 'manual', signal: AbortSignal.timeout(PATIENCE_MS) },
      headers: { 'content-type': type, ...(header !== '' && secret !== null ? { [header]: secret } : {}) },
    });
    const said = await begun(answer);
    if (answer.ok) return { ok: true, words: `${host} took the message to ${to}.`, said };
    return { ok: false, words: wordsOf(answer.status, host, header), said };
  } catch (error) {
    return { ok: false, words: troubleOf(error as Failed, host), said: '' };
  }
}

/** How an answer begins. */
async function begun({ body }: Response): Promise<string> {
  const chunks: Uint8Array[] = [];
  let octets = 0;
  for await (const chunk of body ?? []) {
    chunks.push(chunk as Uint8Array);
    octets += (chunk as Uint8Array).length;
    if (octets >= MOST_READ) break; // which lets go of the rest
  }
  const text = Buffer.concat(chunks).toString('utf8');
  return text
    .replace(/[^\x20-\x7e]+/g, ' ')
    .trim()
    .slice(0, MOST_SAID);
}

function wordsOf(status: number, host: string, header: string): string {
  if (status === 401 || status === 403)
    return `${host} does not know who asks (${status}). Look at ${header === '' ? 'which header field it wants' : `the value of ${header}`}.`;
  if (status === 404) return `${host} has no such page (404). Look at the address.`;
  if (status === 429) return `${host} takes no more messages for now (429).`;
  if (status >= 300 && status < 400) return `${host} sends on to another address (${status}). Write that one.`;
  return `${host} did not take the message (${status}).`;
}

type Failed = Error & { readonly cause?: { readonly code?: string; readonly message?: string } };

function troubleOf({ name, message, cause }: Failed, host: string): string {
  const code = cause?.code ?? '';
  if (name === 'TimeoutError') return `${host} does not answer. Something on the way may drop what is sent there.`;
  if (/ENOTFOUND|EAI_AGAIN/.test(code)) return `Nobody knows the name ${host}. Look at how it is written.`;
  if (code === 'ECONNREFUSED') return `Nothing listens at ${host}. Look at the port.`;
  if (/CERT|TLS|SSL|SELF_SIGNED/.test(code)) return `${host}: encryption could not be agreed upon (${code}).`;
  return `${host} did not take the message: ${(code || cause?.message || message).replace(/[^\x20-\x7e]+/g, ' ').slice(0, MOST_SAID)}`;
}
