import { asHeard } from '../base';
import type { Check, EndingCertificate } from './check';
import type { Finding } from './finding';
import { found } from './server-finding';
import { found as ssidFound, mendOf } from './ssid-finding';

/** SSIDs of 192 bits where the controller alone is asked, whose authority a version before made: they take longer keys. */
const longKeys: Check = ({ site, shortKeys }) =>
  site.ssids.flatMap((ssid): Finding[] => {
    const { radiusServers: servers } = site;
    if (
      !shortKeys ||
      ssid.security !== 'wpa3-enterprise-192' ||
      servers.length === 0 ||
      servers.some(({ own }) => !own)
    )
      return [];
    return [
      ssidFound(site.id, ssid, 'entry.certificates-alone', {
        severity: 'error',
        message: `“${asHeard(ssid.name)}” lets nobody in at ${site.name}`,
        reason:
          'Of 192 bits clients and servers prove themselves by certificates with keys of 384 bits (EAP-TLS). The authority of this controller, which alone is asked here, was made with 256 by a version before. Add a server that has such, or choose WPA3 with 802.1X.',
        mend: mendOf(site, ssid, 'take WPA3 with 802.1X', { security: 'wpa3-enterprise' }),
      }),
    ];
  });

/** Servers whose authority ends: clients that believe nobody else turn away from them then. */
const authorityEnds: Check = ({ site, ending = [] }) =>
  ending.flatMap(({ radiusId, day, over }): Finding[] => {
    const server = site.radiusServers.find(({ id }) => id === radiusId);
    if (!server) return [];
    const message =
      day === null
        ? `The authority of “${server.name}” is no certificate that can be read`
        : `The authority of “${server.name}” ${over ? `ended on ${day}` : `ends on ${day}`}`;
    const reason =
      day === null
        ? 'Nobody is believed by it. Paste the certificate of whoever made the server’s, as PEM.'
        : 'Clients that believe it by that one alone do not after that day: no password goes there, and they are not let in. Paste the one that follows beside it, then renew the server’s certificate.';
    return [
      found(site, server, 'entry.authority-ends', {
        severity: over ? 'error' : 'warning',
        message,
        reason,
        mend: null,
      }),
    ];
  });

/** How a day is said at which something ends. */
const endsOn = ({ day, over }: Pick<EndingCertificate, 'day' | 'over'>): string =>
  over ? `ended on ${day}` : `ends on ${day}`;

/** Certificates that end: what servers showed when they were asked last, and what was made here for servers and users. */
const certificatesEnd: Check = ({ site, certificates = [] }) =>
  certificates.flatMap((each): Finding[] => {
    const own = site.radiusServers.find((server) => server.own);
    if (each.kind === 'shown') {
      const server = site.radiusServers.find(({ id }) => id === each.radiusId);
      if (!server) return [];
      return [
        found(site, server, 'entry.server-certificate-ends', {
          severity: each.over ? 'error' : 'warning',
          message: `The certificate that “${server.name}” shows ${endsOn(each)}`,
          reason: `It is for ${asHeard(each.name)}, and was seen on ${each.seen}. Clients that look at it turn away after that day: no password goes there, and nobody new is let in. Renew it at the server, and test that once more: what it shows then is what counts.`,
          mend: null,
        }),
      ];
    }
    const [first] = each.names;
    if (first === undefined) return [];
    if (each.kind === 'servers') {
      const named = site.radiusServers.find(({ address, certificateName }) =>
        [address, certificateName].some((name) => name?.toLowerCase() === first),
      );
      const server = named ?? own;
      if (!server) return [];
      return [
        {
          ...found(site, server, 'entry.certificate-ends', {
            severity: each.over ? 'error' : 'warning',
            message: `The certificate that was made for ${asHeard(first)} ${endsOn(each)}`,
            reason:
              'Whoever looks at it does not believe that server after that day. Make it another under Entry, Certificates, put that in its place, and take this one back.',
            mend: null,
          }),
          key: `entry.certificate-ends ${server.id} ${first}`,
        },
      ];
    }
    if (!own) return [];
    const many = each.count > 1 ? `Certificates of ${each.count} users end within 30 days` : '';
    const names = each.names.map((name) => asHeard(name)).join(', ');
    return [
      {
        ...found(site, own, 'entry.certificate-ends', {
          severity: 'warning',
          message: many || `The certificate of ${asHeard(first)} ${endsOn(each)}`,
          reason: `${many ? `The first ${endsOn(each)}: ${names}${each.count > each.names.length ? ' and others' : ''}. ` : ''}Who has no other is not let in by it after that day. Make them others under Entry, Users, and bring these to their devices before.`,
          mend: null,
        }),
        key: `entry.certificate-ends ${own.id} users`,
      },
    ];
  });

/** What is wrong with certificates, or will be soon. */
export const CERTIFICATE_CHECKS: readonly Check[] = [longKeys, authorityEnds, certificatesEnd];
