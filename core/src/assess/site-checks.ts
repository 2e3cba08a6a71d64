import { sheetFor } from '../hardware';
import { fixedAddressIn, isRoutedByGateway, plainSegmentsOfSsid } from '../intent';
import { isOff, type Check } from './check';

/** Segments that nothing routes, because the site has devices but no gateway. */
export const noGateway: Check = ({ site, roster, documents }) => {
  if (roster.length === 0 || [...documents.values()].some((document) => document.kind === 'gateway')) return [];
  // A site whose segments are all routed by boxes of others, or by nobody, lacks none.
  if (site.segments.every((segment) => !isRoutedByGateway(segment))) return [];
  return [
    {
      key: 'lattice.no-gateway',
      code: 'lattice.no-gateway',
      severity: 'error',
      message: `${site.name} has no gateway`,
      reason:
        'Nothing answers at the gateway addresses of its segments. Claim a gateway into the site, or say which other router it has, and what that routes.',
      place: { siteId: site.id, kind: 'segment', id: site.managementId },
      mend: null,
    },
  ];
};

/** An SSID that reaches the site but names a segment the site does not have. */
export const ssidWithoutSegment: Check = ({ site }) =>
  site.ssids
    .filter((ssid) => plainSegmentsOfSsid(ssid).length === 0 && !ssid.landed)
    .map((ssid) => ({
      key: `wireless.no-segment ${ssid.id}`,
      code: 'wireless.no-segment',
      severity: isOff(site, ssid.segment) ? 'info' : 'error',
      message: isOff(site, ssid.segment)
        ? `“${ssid.name}” is not sent at ${site.name}: its segment is switched off`
        : `“${ssid.name}” has no segment at ${site.name}`,
      reason: isOff(site, ssid.segment)
        ? `It joins its clients to “${ssid.segment}”. It is sent again as soon as that is switched on.`
        : `It joins its clients to “${ssid.segment}”, which this site does not have, so no AP here sends it.`,
      place: { siteId: site.id, kind: 'ssid', id: ssid.id },
      mend: null,
    }));

/** A device whose fixed address has no place in the segment it lives in any more: it would be cut off. */
export const fixedOutside: Check = ({ site, roster }) =>
  roster.flatMap((device) => {
    if (!device.address || fixedAddressIn(device.address, site.management)) return [];
    const { address, gateway } = device.address;
    return [
      {
        key: `intake.fixed-outside ${device.id}`,
        code: 'intake.fixed-outside',
        severity: 'error',
        message: `${device.name} would be cut off`,
        reason: `Its fixed address ${address} with the gateway ${gateway} has no place in ${site.management.name}, ${site.management.subnet}. Let it ask for an address, or give it another, under Intake.`,
        place: { siteId: site.id, kind: 'device' as const, id: device.id },
        mend: null,
      },
    ];
  });

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
