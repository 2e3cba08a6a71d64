import { asHeard } from '../base';
import { sheetFor } from '../hardware';
import { taggedOf, type SharedReach, type Tagged } from '../intent';
import type { Check, CheckContext } from './check';
import type { Finding } from './finding';

/** What is for sites with a tag, and is not where they are by now. */
const tagsOfSites: Check = ({ site, tags = [] }) => {
  return taggedOf(site.estate).flatMap(({ kind, id, name: plain, reach, reachedBy }): Finding[] => {
    const name = NAMED[kind](plain);
    if (reach.kind === 'estate' || !reach.tag) return [];
    const { siteIds, tag } = reach;
    const [has, is] = [tags.includes(tag), siteIds.includes(site.id)];
    if (has === is) return [];
    const left = has ? [...siteIds, site.id] : siteIds.filter((each) => each !== site.id);
    const to: SharedReach = { ...reach, siteIds: left };
    return [
      {
        key: `shared.tag ${kind} ${id}`,
        code: 'shared.tag',
        severity: has ? 'warning' : 'info',
        message: has
          ? `${name} is for sites tagged ${tag}, and not here yet`
          : `${name} is here without the tag ${tag}`,
        reason: has
          ? 'The site got its tag after the sites were chosen by it. Nothing is told to its devices before somebody says so.'
          : 'Its sites were chosen by that tag, which this one does not have any more.',
        place: { siteId: site.id, kind, id },
        mend:
          left.length > 0
            ? {
                label: has ? `let it reach ${site.name} too` : `take ${site.name} out`,
                operations: [reachedBy(to)],
              }
            : null,
      },
    ];
  });
};

/** What one of it is called where it is spoken of. */
const NAMED: Readonly<Record<Tagged['kind'], (name: string) => string>> = {
  ssid: (name) => `“${asHeard(name)}”`,
  class: (name) => `Class “${name}”`,
  radius: (name) => `The RADIUS server “${name}”`,
  route: (name) => `The route “${name}”`,
};

/** APs that got the tag by which those of an SSID were chosen, or lost it. */
const tagsOfAps: Check = ({ site, roster, deviceTags = {} }) =>
  site.ssids.flatMap(({ id, name, apTags, senders }): Finding[] => {
    const tag = apTags?.[site.id];
    if (!tag || !senders) return [];
    const aps = roster.filter((device) => sheetFor(device).kind === 'ap');
    const tagged = aps.filter((ap) => deviceTags[ap.id]?.includes(tag));
    const missing = tagged.filter((ap) => !senders.includes(ap.id));
    const without = aps.filter((ap) => senders.includes(ap.id) && !tagged.includes(ap));
    if (missing.length + without.length === 0) return [];
    const some = (list: CheckContext['roster'], what: string): string =>
      list.length === 0
        ? ''
        : `${what} ${list
            .slice(0, 3)
            .map((ap) => ap.name)
            .join(', ')}${list.length > 3 ? ` and ${list.length - 3} more` : ''}.`;
    const to = { [site.id]: tagged.map((ap) => ap.id).sort() };
    return [
      {
        key: `wireless.ap-tag ${id}`,
        code: 'wireless.ap-tag',
        severity: missing.length > 0 ? 'warning' : 'info',
        message: `“${asHeard(name)}” is for APs tagged ${tag}, and others send it`,
        reason: [some(missing, 'Tagged, and not sending it:'), some(without, 'Sending it without the tag:')]
          .filter((text) => text !== '')
          .join(' '),
        place: { siteId: site.id, kind: 'ssid', id },
        mend:
          tagged.length > 0
            ? {
                label: `let those ${tagged.length === 1 ? 'one' : tagged.length} send it that ${tagged.length === 1 ? 'has' : 'have'} the tag`,
                operations: [{ type: 'ssid.set', ssidId: id, from: { aps: { [site.id]: senders } }, to: { aps: to } }],
              }
            : null,
      },
    ];
  });

export const TAG_CHECKS: readonly Check[] = [tagsOfSites, tagsOfAps];
