import { Component, computed, inject, input, output } from '@angular/core';
import { landingSite, resolve, type Ssid } from '@iron-lattice/core/intent';
import { capLimits, capPlaces, type CapLimits } from '@iron-lattice/core/rollout';
import type { CapWay } from '@iron-lattice/core/traffic';
import type { Problem } from '../session/problem';
import { capShares, type ThereNow } from '../shell/cap-shares';
import { CapsCells } from '../shell/caps-cells';
import { capsOf, capsReadable, type CapsText } from '../shell/caps-text';
import { SiteStore } from '../shell/site-store';
import { fieldsOf, type SsidText } from './ssid-text';

/** What clients of an SSID may take, where that is held, and what it leaves each at the site in front. */
@Component({
  selector: 'il-ssid-caps',
  imports: [CapsCells],
  template: `
    <il-caps-cells
      of="ssid"
      together="At each site by itself"
      [text]="text().caps"
      [problem]="problem()"
      [readonly]="!mayChange()"
      [shares]="shares()"
      [place]="place()"
      (changed)="changed.emit($event)"
    />
  `,
  styles: ':host { display: contents; }',
})
export class SsidCaps {
  private readonly store = inject(SiteStore);
  readonly ssid = input.required<Ssid | null>();
  readonly text = input.required<SsidText>();
  readonly problem = input.required<Problem | null>();
  readonly mayChange = input.required<boolean>();
  readonly changed = output<Partial<CapsText>>();

  private readonly caps = computed(() => (capsReadable(this.text().caps) ? capsOf(this.text().caps) : null));
  /** The site with the SSID as it is typed. */
  private readonly typed = computed(() => {
    const [data, text] = [this.store.data(), this.text()];
    if (!data || !capsReadable(text.caps)) return null;
    const id = this.ssid()?.id ?? 'new';
    const { name, security, bands, segment, tunnel, byClass, reach, aps } = text;
    const said = { name, security, bands, segment, tunnel, byClass, reach, aps };
    const ssid: Ssid = { id, ...said, passphrase: null, caps: fieldsOf(text).caps ?? null };
    const others = data.estate.ssids.filter((each) => each.id !== id);
    const site = resolve({ ...data.estate, ssids: [...others, ssid] }, data.site);
    const here = site.ssids.find((each) => each.id === id);
    return here ? { source: { site, roster: data.roster }, ssid: here } : null;
  });
  protected readonly place = computed(() => {
    const [caps, typed] = [this.caps(), this.typed()];
    if (!caps) return '';
    if (!typed) return 'Each site holds it by itself: where, and why, is told there.';
    const words: string[] = caps.client ? ['Each client is held at its AP.'] : [];
    const place = capPlaces(typed.source).get(typed.ssid.id);
    if (caps.all && place) words.push(`All together: ${WHERE[place.at]} ${place.why}`);
    return words.join(' ');
  });
  protected readonly shares = computed(() => {
    const typed = this.typed();
    if (!typed) return [];
    const of = (way: CapWay): CapLimits => capLimits(typed.source, typed.ssid, way);
    return capShares({ down: of('down'), up: of('up') }, this.now());
  });
  /** Who is there now: on the SSID, and others in its segment. */
  private readonly now = computed((): ThereNow | null => {
    const [name, vlan] = [this.ssid()?.name, this.segmentVlan()];
    const clients = this.store.devices().flatMap((device) => device.clients);
    const own = clients.filter((client) => client.ssid === name).length;
    const others = clients.filter(
      (client) => client.ssid !== name && client.vlan === vlan && client.to === undefined,
    ).length;
    return name === undefined ? null : { own, others };
  });
  private readonly segmentVlan = computed(() => {
    const { segment, tunnel } = this.text();
    // At another site nobody here is beside them.
    if (landingSite({ tunnel }, this.store.siteId() ?? '') !== null) return undefined;
    const name = segment.toLowerCase();
    return this.store.site()?.segments.find((segment) => segment.name.toLowerCase() === name)?.vlan;
  });
}

const WHERE = { gateway: 'at the gateway.', ap: 'at the AP.', parts: 'at the APs.', nowhere: 'nowhere.' } as const;
