import { uplinkSettings } from '../intent';
import { nameIn, type Check } from './check';
import type { Finding, FindingPlace } from './finding';

/**
 * Courses, translations and published ports whose uplinks their gateway has no more: another box took its place that has fewer. While a gateway
 * has a port, edits keep it an uplink as long as something is said of it.
 */
export const lostPorts: Check = (context) => {
  const { site, roster } = context;
  const { courses = [], translations = [], publications = [], routes = [] } = site;
  const said = [
    ...courses.map((each) => ({ ...each, kind: 'course' as const, what: 'course' })),
    ...translations.map(({ port, ...each }) => ({
      ...{ ...each, ports: [port], kind: 'translation' as const, what: 'translation' },
    })),
    ...publications.map((each) => ({ ...each, kind: 'publication' as const, what: 'published port' })),
    ...routes.flatMap(({ via, ...each }) =>
      via.kind === 'uplink' ? [{ ...each, ports: [via.port], kind: 'route' as const, what: 'route' }] : [],
    ),
  ];
  return roster.flatMap((device): Finding[] => {
    const mine = said.filter(({ deviceId, off }) => deviceId === device.id && !off);
    if (mine.length === 0) return [];
    const there = new Set(uplinkSettings(site, device).map(({ port }) => port));
    return mine.flatMap(({ id, name, kind, what, ports }): Finding[] => {
      const lost = ports.filter((port) => !there.has(port));
      if (lost.length === 0) return [];
      const all = lost.length === ports.length;
      const place: FindingPlace = { siteId: site.id, kind, id };
      return [
        {
          ...{
            key: `paths.lost-port ${kind} ${id}`,
            code: 'paths.lost-port',
            severity: all ? 'error' : 'warning',
            place,
          },
          message: `The ${what} “${name}” ${all ? 'is in force nowhere' : 'counts on an uplink that is gone'}`,
          reason: `${nameIn(context, device.id)} has no uplink ${lost.join(', ')}. Say others, or take it away.`,
          mend: null,
        },
      ];
    });
  });
};
