import { computed, inject, resource, type Signal } from '@angular/core';
import { landingSite, type TunnelEnd } from '@iron-lattice/core/intent';
import { JoinedSegments } from '../shell/joined-segments';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import type { Choice } from '../ui/choice-cell';

/**
 * Segments, and pools where they may be, that clients of an SSID can be told to join: those of the site that it carries them to, else those of where one is.
 * Call it where injection is possible.
 */
export function segmentChoices(
  typed: () => { readonly segment: string; readonly tunnel: TunnelEnd | null },
): Signal<readonly Choice[]> {
  const [shared, joined, store] = [inject(SharedStore), inject(JoinedSegments), inject(SiteStore)];
  const there = resource({
    params: () => landingSite(typed(), (shared.atEstate() ? null : store.siteId()) ?? '') ?? undefined,
    loader: ({ params }) => joined.at(params),
  });
  return computed(() => {
    const { segment, tunnel } = typed();
    const away = landingSite({ tunnel }, (shared.atEstate() ? null : store.siteId()) ?? '') !== null;
    if (!away) return shared.joinChoices(segment, true);
    const all = there.hasValue() ? there.value() : [];
    const choices = all.map(({ name, subnet }): Choice => ({ value: name, label: `${name} · ${subnet}` }));
    const known = segment === '' || all.some(({ name }) => name.toLowerCase() === segment.toLowerCase());
    return known ? choices : [...choices, { value: segment, label: `${segment}, not at that site` }];
  });
}
