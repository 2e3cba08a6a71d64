import { Component, computed, inject, input, output } from '@angular/core';
import { OVERLAY_OCTETS, TCP_HEADERS, TUNNEL_MTU, TUNNEL_OCTETS, TUNNEL_PARTS } from '@iron-lattice/core/document';
import { sheetFor } from '@iron-lattice/core/hardware';
import { landingSite, OWN_GATEWAY, type TunnelEnd } from '@iron-lattice/core/intent';
import type { Problem } from '../session/problem';
import { EstateStore } from '../shell/estate-store';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { counted } from '../ui/counted';

const { ip, gre, key, ethernet } = TUNNEL_PARTS;

/** How frames get to their segment, in words. @param sites names of sites, by id. */
export const tunnelWords = (tunnel: TunnelEnd | null, sites: readonly Choice[]): string => {
  if (tunnel === null) return 'over the cables';
  const name = sites.find(({ value }) => value === tunnel)?.label;
  return tunnel === OWN_GATEWAY ? 'in a tunnel' : `in a tunnel to ${name ?? 'a site that is gone'}`;
};

/** Whether clients of an SSID come to their segment over cables or in a tunnel; what a tunnel costs, and who it depends on. */
@Component({
  selector: 'il-ssid-tunnel',
  imports: [ChoiceCell],
  template: `
    <il-choice-cell
      label="How its frames get there"
      for="ssid-tunnel"
      size="wide"
      [options]="choices()"
      [value]="value()"
      [disabled]="!mayChange()"
      [hint]="hint() || usual()"
      [flaw]="problem()?.of('tunnel')"
      (chosen)="changed.emit({ tunnel: $event })"
    >
      @if (value()) {
        <p class="value">
          {{ octets }} octets more a frame <span class="soft">({{ parts }})</span
          >{{ away() ? ', and ' + between + ' of the tunnel between sites' : '' }}; TCP is told segments of
          {{ segment() }}, packets of more than {{ mtu().toLocaleString('en') }} are parted in two, and what is sent to
          all goes to each AP by itself.
        </p>
        <p class="value" [class.caution]="silent()">{{ dependence() }}</p>
      }
    </il-choice-cell>
  `,
  styles: `
    :host {
      display: contents;
    }
    p {
      margin: 4px 0 0;
    }
  `,
})
export class SsidTunnel {
  private readonly store = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  private readonly estate = inject(EstateStore);
  readonly value = input.required<TunnelEnd | null>();
  readonly problem = input.required<Problem | null>();
  readonly mayChange = input.required<boolean>();
  /** Said instead of what the choice means. */
  readonly hint = input('');
  readonly changed = output<{ readonly tunnel: TunnelEnd | null }>();
  protected readonly octets = TUNNEL_OCTETS;
  protected readonly between = OVERLAY_OCTETS;
  protected readonly parts = `IP ${ip}, GRE ${gre}, key ${key}, Ethernet ${ethernet}`;
  /** The site in front; empty over all of them. */
  private readonly here = computed(() => (this.shared.atEstate() ? '' : (this.store.siteId() ?? '')));
  /** Id of the other site that it leads to; null: to none. */
  protected readonly away = computed(() => landingSite({ tunnel: this.value() }, this.here()));
  /** Sites that are joined to others, as far as they are known here; a spoke’s page knows those that it has tunnels to, so that all are offered there. */
  private readonly joined = computed((): readonly Choice[] => {
    const { overlay, members = [] } = this.shared.estate() ?? {};
    if (!overlay) return [];
    const known = new Set(members.map(({ siteId }) => siteId));
    const own = members.find(({ siteId }) => siteId === this.here());
    const all = this.estate.siteChoices().filter(({ value }) => value !== this.here());
    return own?.role === 'spoke' ? all : all.filter(({ value }) => known.has(value));
  });
  protected readonly choices = computed((): readonly Choice[] => {
    const sites = this.joined().map(({ value, label }) => ({
      value,
      label: `in a tunnel to ${label}, into its segment`,
    }));
    const [away, known] = [this.away(), sites.some(({ value }) => value === this.away())];
    const gone = away !== null && !known ? [{ value: away, label: tunnelWords(away, this.estate.siteChoices()) }] : [];
    const later: Choice[] =
      sites.length + gone.length > 0
        ? []
        : [{ value: 'site', label: 'in a tunnel to another site, once Paths joins sites', later: true }];
    return [
      { value: null, label: 'over the cables, by VLAN' },
      { value: OWN_GATEWAY, label: 'in a tunnel (GRE) to its site’s gateway' },
      ...sites,
      ...gone,
      ...later,
    ];
  });
  private readonly landing = computed(() => this.shared.estate()?.landings?.[this.away() ?? '']);
  protected readonly mtu = computed(() => {
    if (this.away() === null) return TUNNEL_MTU;
    return this.landing()?.from[this.here()]?.mtu ?? TUNNEL_MTU - OVERLAY_OCTETS;
  });
  protected readonly segment = computed(() => (this.mtu() - TCP_HEADERS).toLocaleString('en'));
  protected readonly usual = computed(() => {
    if (this.away() !== null) return 'No site on the way needs its segment; their APs’ segments have to be shared';
    return this.value() ? 'No port on the way needs its VLAN' : 'Every port on the way carries its VLAN';
  });
  /** APs of the site in front that say how the far end of their tunnel is. */
  private readonly told = computed(() => {
    if (!this.value() || this.shared.atEstate()) return [];
    if (this.away() === null) return this.store.devices().flatMap(({ tunnel }) => tunnel ?? []);
    return this.store.devices().flatMap(({ landings }) => landings.filter(({ to }) => to === this.landing()?.to));
  });
  private readonly gateway = computed(() => {
    const ids = this.store.data()?.roster.filter((each) => sheetFor(each).kind === 'gateway') ?? [];
    const [first] = ids.map(({ name }) => name).sort();
    return this.store.devices().find(({ name }) => name === first) ?? null;
  });
  private readonly unheard = computed(() => this.told().filter(({ answers }) => !answers).length);
  protected readonly silent = computed(
    () => !this.shared.atEstate() && (this.unheard() > 0 || this.gateway()?.state === 'silent'),
  );
  protected readonly dependence = computed(() => {
    const site = this.away() === null ? null : this.siteName();
    if (this.shared.atEstate())
      return site === null
        ? 'At each site it depends on the gateway: while that is silent, nobody on it gets any further.'
        : `At each site but ${site} it depends on two gateways and the tunnel between them: while one of these is silent, nobody on it gets any further.`;
    const name = this.gateway()?.name;
    if (name === undefined)
      return site === null
        ? 'This site has no gateway that would take the frames out.'
        : `This site has no gateway that would hand the packets on to ${site}.`;
    const on = site === null ? name : `${name}, on the tunnel to ${site} and on the gateway there`;
    const depends = `It depends on ${on}: while ${site === null ? 'that' : 'one of these'} is silent, nobody on it gets any further, not even to a neighbour on the same AP.`;
    const all = this.told().length;
    if (this.unheard() > 0)
      return `${depends} Now ${this.unheard()} of ${counted(all, 'AP')} ${this.unheard() === 1 ? 'hears' : 'hear'} nothing from it.`;
    if (this.gateway()?.state === 'silent') return `${depends} ${name} is silent now.`;
    return all > 0 ? `${depends} It answers ${all === 1 ? 'the AP' : `all ${all} APs`} now.` : depends;
  });

  private siteName(): string {
    const known = this.estate.siteChoices().find(({ value }) => value === this.away());
    return known?.label ?? 'the other site';
  }
}
