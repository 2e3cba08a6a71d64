import punycode from 'punycode/punycode.js';
import { flaw, type Flaw } from '../base';

/** Octets of a name without its root, and of one label (RFC 1035 §2.3.4). */
const [MOST_OCTETS, MOST_LABEL] = [253, 63];
/** A label that resolvers take: letters, digits, dashes that are neither first nor last, and underscores as services have (RFC 1123 §2.1, RFC 8552). */
const LABEL = /^[a-z0-9_](?:[a-z0-9_-]*[a-z0-9_])?$/;
/** A name that needs no second look. */
const PLAIN = /^(?:[a-z0-9_](?:[a-z0-9_-]{0,61}[a-z0-9_])?\.)+(?!\d+$)[a-z0-9](?:[a-z0-9-]{0,61}[a-z0-9])?$/;

/**
 * A domain name as resolvers compare it: lower case, without the dot of the root, labels of other scripts in the letters that travel (RFC 5890 §2.3.2.1).
 * @returns what is wrong with it otherwise.
 */
export function readName(
  text: string,
): { readonly ok: true; readonly name: string } | { readonly ok: false; readonly flaw: Flaw } {
  if (PLAIN.test(text) && text.length <= MOST_OCTETS) return { ok: true, name: text };
  const wrong = (code: string, words: string) => ({ ok: false as const, flaw: flaw(`name.${code}`, words, 'name') });
  const said = text.trim();
  if (/\s/.test(said)) return wrong('blank', `“${short(said)}” has a blank in it: one name a line.`);
  if (said.includes('*'))
    return wrong('wildcard', `“${short(said)}”: a * stands at the very front alone, as in *.example.`);
  if (/[/:@<>]/.test(said))
    return wrong('url', `“${short(said)}” is no name: leave out what is before it and behind it.`);
  const name = ascii(said.normalize('NFC').toLowerCase()).replace(/\.$/, '');
  const labels = name.split('.');
  if (name === '') return wrong('empty', 'There is no name.');
  if (name.length > MOST_OCTETS)
    return wrong('long', `“${short(said)}” has ${name.length} octets; a name has ${MOST_OCTETS} at most.`);
  const long = labels.find((label) => label.length > MOST_LABEL);
  if (long)
    return wrong(
      'label',
      `“${short(long)}” has ${long.length} octets; between two dots there are ${MOST_LABEL} at most.`,
    );
  if (labels.includes('')) return wrong('dots', `“${short(said)}” has two dots beside each other, or one in front.`);
  const odd = labels.find((label) => !LABEL.test(label));
  if (odd !== undefined)
    return wrong('sign', `“${short(said)}”: a name has letters, digits, - and _; “${short(odd)}” has something else.`);
  if (/^[0-9.]+$/.test(name)) return wrong('address', `“${short(said)}” is an address, not a name.`);
  return { ok: true, name };
}

/** A name as people read it: labels of other scripts in those. */
export const shownName = (name: string): string => {
  if (!name.includes('xn--')) return name;
  try {
    const shown = punycode.toUnicode(name);
    // What does not come back as it was is a disguise.
    return ascii(shown) === name ? shown : name;
  } catch {
    return name;
  }
};

/** Labels of other scripts in the letters that travel; as it is where that cannot be said. */
function ascii(name: string): string {
  try {
    return punycode.toASCII(name);
  } catch {
    return name;
  }
}

const short = (text: string): string => (text.length <= 60 ? text : `${text.slice(0, 57)}…`);
