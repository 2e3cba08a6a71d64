import { parseIp } from '../address';
import { asHeard } from '../base';
import { asksWho, waysOf, type RadiusServerDocument } from '../document';
import type { RadiusServer } from '../intent';
import { breachOf, packetWords } from '../rules';
import { CERTIFICATE_CHECKS } from './certificate-checks';
import type { Check, CheckContext } from './check';
import type { Finding } from './finding';
import { found as ssidFound, mendOf } from './ssid-finding';
import { found } from './server-finding';
import { clientsOf, type PolicyView } from './policy-view';
import { nameIn } from './reach-view';

/** Servers that devices of a site are told to ask. */
function askedHere({ site, documents }: Pick<CheckContext, 'site' | 'documents'>): readonly RadiusServer[] {
  const told = new Set<string>();
  for (const { radius } of documents.values()) for (const { name } of radius?.servers ?? []) told.add(name);
  return site.radiusServers.filter(({ name }) => told.has(name));
}

/** Servers whose answers anybody on the way may have changed. */
const unproven: Check = ({ site }) =>
  site.radiusServers
    .filter(({ unsigned }) => unsigned)
    .map((server) =>
      found(site, server, 'entry.server-unproven', {
        severity: 'warning',
        message: `Answers of “${server.name}” are taken without proof`,
        reason:
          'Whoever is on the way can turn its no into a yes (CVE-2024-3596). Update it so that it sends Message-Authenticator, then demand that.',
        mend: {
          label: 'demand Message-Authenticator',
          operations: [{ type: 'radius.set', radiusId: server.id, from: { unsigned: true }, to: { unsigned: null } }],
        },
      }),
    );

/** Secrets that guessers try first. */
const commonSecret: Check = ({ site, common = [] }) =>
  site.radiusServers
    .filter(({ secret }) => common.includes(secret.secret))
    .map((server) =>
      found(site, server, 'entry.server-secret', {
        severity: 'warning',
        message: `The secret of “${server.name}” is among those that are tried first`,
        reason: 'Whoever guesses it lets in whom they like. Draw one of 32 characters and enter it on both sides.',
        mend: null,
      }),
    );

/** Secrets that several servers have: whoever learns it of one is believed as the other. */
const sharedSecret: Check = ({ site, alike = [] }) =>
  alike.flatMap((ids): Finding[] => {
    const [first, ...more] = site.radiusServers.filter(({ secret }) => ids.includes(secret.secret));
    if (!first || more.length === 0) return [];
    const names = more.map(({ name }) => `“${name}”`).join(' and ');
    return [
      found(site, first, 'entry.server-secret-shared', {
        severity: 'warning',
        message: `“${first.name}” and ${names} have one secret`,
        reason:
          'Whoever learns it at one of them answers in the name of the other. Draw one for each and enter it on both sides.',
        mend: null,
      }),
    ];
  });

/** A single server that devices depend on. */
const alone: Check = (context) => {
  const asked = askedHere(context);
  if (asked.length !== 1) return [];
  return [
    found(context.site, asked[0]!, 'entry.server-alone', {
      severity: 'info',
      message: `Who is let in at ${context.site.name} depends on “${asked[0]!.name}” alone`,
      reason: 'While it does not answer, nobody new is known by it. Add a second one with the next number.',
      mend: null,
    }),
  ];
};

/** Servers that a gateway is to ask for the others, where there is none. */
const noGateway: Check = ({ site, documents }) => {
  if ([...documents.values()].some(({ kind }) => kind === 'gateway')) return [];
  const asks = (server: RadiusServerDocument): boolean => server.through !== undefined;
  const told = new Set(
    [...documents.values()].flatMap(({ radius }) => (radius?.servers ?? []).filter(asks).map(({ name }) => name)),
  );
  return site.radiusServers
    .filter(({ name }) => told.has(name))
    .map((server) =>
      found(site, server, 'entry.server-through-nobody', {
        severity: 'error',
        message: `Nobody asks “${server.name}” at ${site.name}`,
        reason: `The gateway is to ask it for the others, and ${site.name} has none. Claim one into the site, or have devices ask it themselves.`,
        mend: {
          label: 'have devices ask it themselves',
          operations: [
            { type: 'radius.set', radiusId: server.id, from: { source: 'gateway' }, to: { source: 'device' } },
          ],
        },
      }),
    );
};

/** Servers whose no comes before the controller is asked for the users that it keeps. */
const ownLate: Check = ({ site, documents }) => {
  const own = site.radiusServers.find((server) => server.own);
  const byMethod =
    site.ssids.some(({ security }) => asksWho(security)) ||
    [...documents.values()].some(({ ports }) => ports.some(({ auth }) => waysOf(auth).includes('802.1X')));
  const before =
    own &&
    site.radiusServers.find((server) => !server.own && server.order < own.order && (server.macs !== null || byMethod));
  if (!before) return [];
  return [
    found(site, own, 'entry.own-late', {
      severity: 'warning',
      message: `Users that this controller keeps are turned away by “${before.name}” at ${site.name}`,
      reason: `“${before.name}” is asked first, and its no is final; the controller is asked only while it does not answer. Whom the controller does not keep is asked of the next server: it can come first.`,
      mend: {
        label: `ask “${own.name}” first`,
        operations: [{ type: 'radius.set', radiusId: own.id, from: { order: own.order }, to: { order: before.order } }],
      },
    }),
  ];
};

/** SSIDs that ask who somebody is, where nobody can be asked. */
const nobodyAsked: Check = ({ site }) =>
  site.ssids.flatMap((ssid): Finding[] => {
    const asksKeys = ssid.ring && ssid.keysAt === 'servers';
    const asked = site.radiusServers.filter(({ macs, own }) => !asksKeys || (macs !== null && !own));
    if (!(asksWho(ssid.security) || asksKeys) || asked.length > 0) return [];
    const reason = asksKeys
      ? 'RADIUS servers are to name the keys of its ring, and none reaches this site that is asked about MAC addresses. Add one under Entry, or say there how one that is here wants MAC addresses; or keep the keys here.'
      : 'It asks who somebody is (802.1X), and no RADIUS server reaches this site that could be asked. Add one under Entry, or have this controller asked.';
    return [
      ssidFound(site.id, ssid, 'entry.nobody-asked', {
        severity: 'error',
        message: `“${asHeard(ssid.name)}” lets nobody in at ${site.name}`,
        reason,
        mend: asksKeys ? mendOf(site, ssid, 'keep its keys here', { keysAt: null }) : null,
      }),
    ];
  });

/** A directory whose account may do more than it has to, or that is asked where others hear it. */
const directoryDoubts: Check = ({ site, directory }) => {
  const own = site.radiusServers.find((server) => server.own);
  if (!own || !directory) return [];
  const doubt = (code: string, message: string, reason: string): Finding =>
    found(site, own, code, { severity: 'warning', message, reason, mend: null });
  return [
    ...(directory.clear
      ? [
          doubt(
            'entry.directory-clear',
            'Passwords go to the directory unencrypted',
            'Whoever hears what goes between the controller and the directory has the passwords of all who sign in. Choose LDAPS, or StartTLS, under Entry, Users, Directory.',
          ),
        ]
      : []),
    ...(directory.passwords
      ? [
          doubt(
            'entry.directory-rights',
            'The directory’s account may look at what passwords are kept as',
            'Whoever gets hold of it guesses at all of them at leisure. It needs no more than to search below the base and to read names and groups: take the rest from it, in the directory.',
          ),
        ]
      : []),
    ...(directory.anybody
      ? [
          doubt(
            'entry.directory-anybody',
            'Anybody may search the directory',
            'Who is there is told without an account, to everybody who reaches it. Have it told to accounts alone, in the directory.',
          ),
        ]
      : []),
  ];
};

/** Classes that servers name and that no class here is called: as the draft has it, whatever devices were told. */
const strangeClasses: Check = ({ site, strangers = [] }) =>
  strangers.flatMap(({ server: name, said, count }): Finding[] => {
    const server = site.radiusServers.find((each) => each.name === name);
    const known = site.accessClasses.some((each) => each.name.toLowerCase() === said.trim().toLowerCase());
    if (!server || known) return [];
    const elsewhere = site.estate.classes?.find((each) => each.name.toLowerCase() === said.trim().toLowerCase());
    const clients = count === 1 ? 'One client is' : `${count} clients are`;
    return [
      {
        ...found(site, server, 'entry.unknown-class', {
          severity: 'warning',
          message: `“${name}” names the class “${asHeard(said)}”, which is not at ${site.name}`,
          reason: elsewhere
            ? `${clients} let in nowhere by it. The class is there, and does not reach ${site.name}: have it reach this site too, under Entry.`
            : `${clients} let in nowhere by it. Add a class of that name under Entry, or correct what the server answers (Filter-Id).`,
          mend: null,
        }),
        key: `entry.unknown-class ${server.id} ${said}`,
      },
    ];
  });

const clientsWords = (count: number): string => (count === 1 ? 'one client' : `${count} clients`);

/** Clients that a server wants another method of: as it is now, whatever the draft says. */
const methodsRefused: Check = ({ site, methods = [] }) =>
  methods.flatMap(({ server: name, refused }): Finding[] => {
    const server = site.radiusServers.find((each) => each.name === name);
    if (!server || refused === 0) return [];
    const what = server.own
      ? 'This controller takes EAP-TTLS with PAP, and certificates (EAP-TLS): set them up for one of these, by a profile of it under Entry, Servers.'
      : 'Allow their method there, or set them up for one that it takes: a test of the server says which.';
    return [
      found(site, server, 'entry.method-not-offered', {
        severity: 'warning',
        message: `“${name}” does not take the method of ${clientsWords(refused)} at ${site.name}`,
        reason: `Until then nobody lets them in; who they are stands under Entry, Not known. ${what}`,
        mend: null,
      }),
    ];
  });

/** Methods that hand over no password, in words. */
const UNTOLD_WORDS = { peap: 'PEAP with MS-CHAPv2', 'eap-tls': 'certificates (EAP-TLS)' } as const;

/** Clients that hand a server their password though it takes methods that hand over none. This controller has to see it: it keeps a hash. */
const papUnneeded: Check = ({ site, methods = [] }) =>
  methods.flatMap(({ server: name, pap, other }): Finding[] => {
    const server = site.radiusServers.find((each) => each.name === name);
    if (!server || server.own || pap === 0 || !other) return [];
    return [
      found(site, server, 'entry.pap-unneeded', {
        severity: 'info',
        message: `“${name}” is told the password of ${clientsWords(pap)} at ${site.name} (PAP)`,
        reason: `By EAP-TTLS with PAP whoever is behind the tunnel reads it. It takes ${UNTOLD_WORDS[other.method]} too, by which ${other.count === 1 ? 'one comes' : `${other.count} come`} here and which hands over none: set these up for it.`,
        mend: null,
      }),
    ];
  });

export const RADIUS_CHECKS: readonly Check[] = [
  ...[unproven, commonSecret, sharedSecret, alone, noGateway, ownLate],
  ...[nobodyAsked, strangeClasses, methodsRefused, papUnneeded, directoryDoubts],
  ...CERTIFICATE_CHECKS,
];

/** Servers that the rules of a site keep its devices from, as far as they are known by address. */
export function stoppedServers(context: Pick<CheckContext, 'site' | 'documents'>, view: PolicyView): Finding[] {
  const { site } = context;
  const from = { key: 'devices', addresses: clientsOf(site).get(site.managementId) ?? [] };
  return askedHere(context).flatMap((server): Finding[] => {
    const own = parseIp(server.address);
    if (!own || server.source === 'gateway') return [];
    const to = { key: 'server', addresses: [{ version: own.version, first: own.value, last: own.value }] };
    const numbers = [server.port, ...(server.accounting ? [server.accounting] : [])];
    const services = numbers.map((port) => ({ protocol: 'udp' as const, ports: [{ first: port, last: port }] }));
    for (const minute of view.open.moments) {
      const breach = breachOf(view.passage(minute), { kind: 'always', from, to, services });
      if (!breach) continue;
      const by = breach.rule ? `“${nameIn(view, breach.rule.id)}” stops it` : 'nothing lets it through';
      return [
        found(site, server, 'entry.server-stopped', {
          severity: 'error',
          message: `Devices at ${site.name} do not reach “${server.name}”`,
          reason: `${packetWords(breach.packet)}: ${by}. Let UDP ${numbers.join(' and ')} through from ${site.management.name} to ${server.address}.`,
          mend: null,
        }),
      ];
    }
    return [];
  });
}
