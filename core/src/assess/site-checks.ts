import { contains, parseIp, parsePrefix } from '../address';
import { sheetFor } from '../hardware';
import type { Check } from './check';

/** Segments that nothing routes, because the site has devices but no gateway. */
export const noGateway: Check = ({ site, roster, documents }) => {
  if (roster.length === 0 || [...documents.values()].some((document) => document.kind === 'gateway')) return [];
  return [
    {
      key: 'lattice.no-gateway',
      code: 'lattice.no-gateway',
      severity: 'error',
      message: `${site.name} has no gateway`,
      reason: 'Nothing answers at the gateway addresses of its segments. Claim a gateway into the site.',
      place: { siteId: site.id, kind: 'segment', id: site.managementId },
      mend: null,
    },
  ];
};

/** An SSID that reaches the site but names a segment the site does not have. */
export const ssidWithoutSegment: Check = ({ site }) =>
  site.ssids
    .filter((ssid) => ssid.segmentId === null)
    .map((ssid) => ({
      key: `wireless.no-segment ${ssid.id}`,
      code: 'wireless.no-segment',
      severity: 'error',
      message: `“${ssid.name}” has no segment at ${site.name}`,
      reason: `It joins its clients to “${ssid.segment}”, which this site does not have, so no AP here sends it.`,
      place: { siteId: site.id, kind: 'ssid', id: ssid.id },
      mend: null,
    }));

/** A segment whose clients get no addresses. */
export const noAddresses: Check = ({ site }) =>
  site.segments
    .filter((segment) => segment.addresses === null)
    .map((segment) => ({
      key: `lattice.no-addresses ${segment.id}`,
      code: 'lattice.no-addresses',
      severity: 'warning',
      message: `${segment.name} gives no addresses`,
      reason: `No service answers on VLAN ${segment.vlan}; clients need fixed addresses there.`,
      place: { siteId: site.id, kind: 'segment', id: segment.id },
      mend: null,
    }));

/** A device whose fixed address no longer lies in the segment it lives in: it would be cut off. */
export const fixedOutside: Check = ({ site, roster }) => {
  const subnet = parsePrefix(site.management.subnet);
  return roster.flatMap((device) => {
    const own = device.address && parseIp(device.address.address);
    if (!device.address || !own || !subnet) return [];
    if (contains(subnet, own) && device.address.gateway === site.management.gateway) return [];
    const { address, gateway } = device.address;
    return [
      {
        key: `intake.fixed-outside ${device.id}`,
        code: 'intake.fixed-outside',
        severity: 'error',
        message: `${device.name} would be cut off`,
        reason: `Its fixed address ${address} with the gateway ${gateway} does not fit ${site.management.name}, ${site.management.subnet} with ${site.management.gateway}. Let it ask for an address, or give it another, under Intake.`,
        place: { siteId: site.id, kind: 'device' as const, id: device.id },
        mend: null,
      },
    ];
  });
};

/** More SSIDs on a radio than its model can send. */
export const tooManySsids: Check = ({ site, roster, documents }) =>
  roster.flatMap((device) => {
    const document = documents.get(device.id);
    if (document?.kind !== 'ap') return [];
    const sheet = sheetFor(device);
    return sheet.radios.flatMap(({ band }) => {
      const sent = document.ssids.filter((ssid) => ssid.bands.includes(band)).length;
      if (sent <= sheet.ssidsPerRadio) return [];
      return [
        {
          key: `wireless.too-many ${device.id} ${band}`,
          code: 'wireless.too-many',
          severity: 'error' as const,
          message: `${device.name} cannot send ${sent} SSIDs on ${band} GHz`,
          reason: `${sheet.title} sends ${sheet.ssidsPerRadio} a radio at most.`,
          place: { siteId: site.id, kind: 'device' as const, id: device.id },
          mend: null,
        },
      ];
    });
  });
