import { parseIp } from '../../address';
import { flaw, type Flaw } from '../../base';
import { editsOfList } from '../kept-list';
import type { EstatePart } from '../part';
import { reachesMeet } from '../reach';
import { isDomain } from '../segment/check';
import type { RadiusOperation } from './operations';
import { MOST_SERVERS, USUAL_SERVER, type RadiusServer } from './radius';

/** Applies an edit of a RADIUS server, which sites share; they stay in the order in which they are asked. */
export const applyRadius = editsOfList<RadiusOperation, RadiusServer, 'estate'>({
  noun: 'radius',
  title: 'RADIUS server',
  where: 'estate',
  list: 'radius',
  order: (a, b) =>
    a.order - b.order ||
    Number(b.own ?? false) - Number(a.own ?? false) ||
    (a.name < b.name ? -1 : a.name > b.name ? 1 : 0),
  normal: (one) => ({
    ...one,
    name: one.name.trim(),
    address: one.own ? '' : one.address.trim().toLowerCase(),
    ...(one.own ? { port: USUAL_SERVER.port, ...(one.accounting ? { accounting: USUAL_SERVER.accounting } : {}) } : {}),
  }),
  purposed: true,
  check: (_intent, estate, one) => check(one, estate),
});

/** What numbers of a server may be, what they are called, and their unit. */
const RANGES = [
  ['port', 'The port that it is asked at', 1, 65_535, ''],
  ['accounting', 'The port that it is told of sessions at', 1, 65_535, ''],
  ['order', 'The order', 1, 9, ''],
  ['timeout', 'The time until a request is sent again', 1, 30, ' seconds'],
  ['tries', 'How often a request is sent', 1, 10, ' times'],
  ['dead', 'The time for which a dead one is left alone', 0, 3600, ' seconds'],
] as const;

function check(one: RadiusServer, { radius = [] }: EstatePart): Flaw[] {
  const flaws: Flaw[] = [];
  const { name, address } = one;
  if (name === '') flaws.push(flaw('radius.name-empty', 'Give the server a name.', 'name'));
  else if (name.length > 60) flaws.push(flaw('radius.name-long', 'A server has 60 characters at most.', 'name'));
  const others = radius.filter(({ id }) => id !== one.id);
  if (others.some((each) => each.name.toLowerCase() === name.toLowerCase()))
    flaws.push(flaw('radius.name-taken', `There is already a RADIUS server “${name}”.`, 'name'));
  if (others.length >= MOST_SERVERS)
    flaws.push(flaw('radius.many', `An estate has ${MOST_SERVERS} RADIUS servers at most.`));
  if (one.own && one.unsigned)
    flaws.push(flaw('radius.own-unproven', 'This controller proves its answers always.', 'unsigned'));
  if (!one.own && !isHost(address)) {
    const words =
      address === ''
        ? 'Say where the server is: a name or an address.'
        : `“${address}” is no name or address; write it like radius.skerrow.example or 10.10.20.7.`;
    flaws.push(flaw('radius.address', words, 'address'));
  }
  for (const [field, what, least, most, unit] of RANGES) {
    const value = one[field];
    if (field === 'accounting' && (value ?? null) === null) continue;
    if (typeof value === 'number' && Number.isInteger(value) && value >= least && value <= most) continue;
    flaws.push(flaw(`radius.${field}`, `${what} is a whole number from ${least} to ${most}${unit}.`, field));
  }
  if (one.authority && !isPem(one.authority))
    flaws.push(
      flaw(
        'radius.authority',
        'That is no certificate as PEM: it begins with -----BEGIN CERTIFICATE----- and ends with -----END CERTIFICATE-----.',
        'authority',
      ),
    );
  if (one.own && (one.authority || one.certificateName))
    flaws.push(flaw('radius.own-authority', 'This controller has an authority of its own.', 'authority'));
  const same = others.find(
    (each) => each.address === address && each.port === one.port && reachesMeet(each.reach, one.reach),
  );
  if (same) {
    const words = one.own
      ? `“${same.name}” is this controller already, and reaches some of the same sites: give each site one of them.`
      : `“${same.name}” is at this address and port already, and reaches some of the same sites.`;
    flaws.push(flaw('radius.same', words, one.own ? 'reach' : 'address'));
  }
  return flaws;
}

/** Whether a text is one or more certificates as PEM (RFC 7468 §5): DER of some length, in base64. */
const isPem = (text: string): boolean =>
  /^(\s*-----BEGIN CERTIFICATE-----\s+MI[A-Za-z0-9+/\s]{100,}={0,2}\s+-----END CERTIFICATE-----\s*)+$/.test(text);

/** Whether a text is an address, or the name of a host; digits and dots alone are neither. */
const isHost = (text: string): boolean => parseIp(text) !== null || (isDomain(text) && !/^[\d.]+$/.test(text));
