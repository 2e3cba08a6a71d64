import { classBySaid, portalBySaid } from '../document';
import type { ResolvedSite } from '../intent';
import type { End, Exchange, NamedKey } from '../radius';
import type { Outcome } from './entry.contract';

/** Whom was asked, as far as words need it. */
interface Asked {
  readonly name: string;
  readonly address: string;
  readonly port: number;
  readonly sent: number;
  readonly why: string;
}

/** What each end that is no answer means, and what to do. */
const FAULTS: Readonly<
  Record<Exclude<End, 'accepted' | 'rejected'>, (of: Asked) => readonly [words: string, advice: string]>
> = {
  unkept: ({ name }) => [
    `${name} keeps nobody by this name; devices ask the next server then, if there is one.`,
    'Add the user under Users, or try one who is there.',
  ],
  unresolved: ({ address, why }) => [
    `The name ${address} is not known here. ${why}`.trim(),
    'Check its spelling, and which name server the device was told of; or write its address instead.',
  ],
  unreachable: ({ address, why }) => [
    `Nothing gets from this device to ${address}. ${why}`.trim(),
    'Let the rule pass UDP to it, or mend the way: the request never left.',
  ],
  closed: ({ address, port }) => [
    `${address} is there, and nothing listens on UDP port ${port}.`,
    'Start the server, or correct the port.',
  ],
  silent: ({ name, sent }) => [
    `${name} does not answer, though it was asked ${sent === 1 ? 'once' : `${sent} times`}.`,
    'It may be off; it may not know the address we ask from; or its secret differs from ours: a server stays silent then. See what it should know under “What the other side enters”.',
  ],
  unproven: ({ name }) => [
    `Something answers as ${name}, but not with our secret.`,
    'Enter the same secret on both sides, to the letter; if it is the same, somebody else answers in its name.',
  ],
  unsigned: ({ name }) => [
    `${name} has our secret, and its answer lacks the Message-Authenticator that we demand: such answers can be forged.`,
    'Update the server, or have it send Message-Authenticator always. Until then its answers can be taken as they are, at that risk.',
  ],
  senseless: ({ name, why }) => [
    `What comes from ${name} makes no sense: ${lower(why)}`,
    'Look whether it is a RADIUS server.',
  ],
  untrusted: ({ name, why }) => [
    `${name} shows a certificate that is not believed. ${why} No password went there.`.replace('  ', ' '),
    'If it is the right server, correct its authority or the name in its certificate; if not, somebody answers in its name.',
  ],
  'other-method': ({ name, why }) => [`${name} wants another method. ${why}`, 'Try that one, or allow this one there.'],
};

const lower = (text: string): string => text.charAt(0).toLowerCase() + text.slice(1);

/**
 * What follows at a site from how a server answered: the class and segment of somebody who is let in, or what is wrong and what to do.
 * @param server as it stands in the draft.
 */
export function outcomeOf(
  exchange: Exchange,
  server: { readonly name: string; readonly own?: boolean | null; readonly address: string; readonly port: number },
  site: ResolvedSite,
): Outcome {
  const { end, why, sent } = exchange;
  const none = { accessClass: null, segment: null };
  if (end === 'rejected')
    return {
      ...{ kind: 'rejected', ...none },
      words: `${server.name} knows the secret and lets nobody in by this name and password. ${why}`.trim(),
      advice: 'Check name and password, and the server’s own record of why.',
    };
  if (end !== 'accepted') {
    const [words, advice] = FAULTS[end]({ ...server, address: server.address || server.name, sent, why });
    return { kind: end, words, advice, ...none };
  }
  const segmentOf = new Map(site.segments.map((segment) => [segment.id, segment]));
  const classes = site.accessClasses.map(({ id, name, segmentId, otherwise }) => {
    const vlan = segmentId === null ? null : (segmentOf.get(segmentId)?.vlan ?? null);
    return { id, name, vlan, members: [], ...(otherwise ? { otherwise: true as const } : {}) };
  });
  const keys = exchange.ring ? keysSaid(exchange.ring, site) : null;
  // A VLAN beside keys says where these lead.
  if (keys && exchange.filterIds.length === 0)
    return { kind: 'names-keys', words: `Let in. ${keys.words}`, advice: keys.advice, ...none };
  const portals = (site.estate.portals ?? []).flatMap(({ id, name, named }) => (named ? [{ id, name }] : []));
  const at = { classes, radius: { servers: [], segments: site.segments, portals } };
  const said = classBySaid(at, exchange);
  const portal = portalBySaid(at, exchange);
  const held = portal ? ` The portal “${portal.name}” holds it until it is let in as a guest.` : '';
  if (!said.ok) {
    if (said.why === 'class')
      return {
        ...{ kind: 'unknown-class', ...none },
        words: `Let in as “${said.said}” (Filter-Id), and no class of that name reaches ${site.name}.`,
        advice:
          'Name a class so, have it reach this site, or correct what the server answers. Until then nobody is let in by it.',
      };
    if (said.why === 'segment') {
      const found = site.accessClasses.find(({ name }) => name === said.said)!;
      return {
        kind: 'class-without-segment',
        accessClass: { id: found.id, name: found.name },
        segment: null,
        words: `Let in as “${said.said}”, whose segment ${found.segment} is not at ${site.name}.`,
        advice: `Add a segment ${found.segment} there, or choose another for the class.`,
      };
    }
    return {
      ...{ kind: 'unknown-segment', ...none },
      words: `Let in with VLAN “${said.said}”, which is that of no class at ${site.name}.`,
      advice: 'Give a class that segment, or correct what the server answers. Until then nobody is let in by it.',
    };
  }
  if (!said.accessClass && portal)
    return {
      ...{ kind: 'no-class', ...none },
      words: `Let in without a class.${held}`,
      advice: 'It joins the segment of its SSID or port. A class (Filter-Id) or a VLAN may be named besides.',
    };
  if (!said.accessClass)
    return {
      ...{ kind: 'no-class', ...none },
      words: 'Let in, and the answer names neither a class (Filter-Id) nor a VLAN.',
      advice: `${server.own ? 'Name one of the user’s groups in an access class. ' : ''}On an SSID such a client joins its own segment; at a port that asks nobody is let in by it.`,
    };
  const { id, name, vlan } = said.accessClass;
  const segment = site.segments.find((each) => each.vlan === vlan)!;
  return {
    kind: 'let-in',
    words:
      `Let in as ${name} ${CHOSEN[said.by]}: ${segment.name}, VLAN ${segment.vlan}.${held} ${keys?.words ?? ''}`.trim(),
    advice: keys?.advice ?? '',
    accessClass: { id, name },
    segment: { id: segment.id, name: segment.name, vlan: segment.vlan },
  };
}

/** What chose a class, in words. */
const CHOSEN = {
  filter: '(Filter-Id)',
  vlan: '(by its VLAN)',
  otherwise: '(the class of everybody else: the answer names none)',
  nothing: '',
} as const;

/** What keys of a ring that an answer names come to at a site. */
function keysSaid(ring: readonly NamedKey[], { segments }: ResolvedSite): Pick<Outcome, 'words' | 'advice'> {
  const leads = ({ vlan: { kind, text }, unfit }: NamedKey): string => {
    if (unfit) return 'one that nobody can give';
    if (kind === 'none') return 'one to the SSID’s own segment';
    const found = segments.find(({ name, vlan }) =>
      kind === 'id' ? vlan === Number(text) : name.toLowerCase() === text.trim().toLowerCase(),
    );
    return found ? `one to ${found.name}, VLAN ${found.vlan}` : `one to “${text}”, which is not here`;
  };
  const shown = ring.slice(0, MOST_SHOWN).map(leads);
  const more = ring.length > MOST_SHOWN ? [`${ring.length - MOST_SHOWN} more`] : [];
  const isLost = ring.some((each) => leads(each).endsWith('not here'));
  return {
    words: `It names ${ring.length === 1 ? 'a key' : `${ring.length} keys`} of a ring (Tunnel-Password): ${[...shown, ...more].join('; ')}.`,
    advice:
      [
        ...(ring.some(({ unfit }) => unfit)
          ? ['A key has 8 to 63 characters, or is 64 hex digits: correct it there.']
          : []),
        ...(isLost ? ['Add the segment here, or correct the VLAN that the server says with the key.'] : []),
      ].join(' ') || 'On an SSID whose keys servers name, whoever gives one of them joins where it leads.',
  };
}

/** Keys of one answer that are told one by one. */
const MOST_SHOWN = 8;
