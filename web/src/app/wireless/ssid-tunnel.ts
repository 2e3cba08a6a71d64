import { Component, computed, inject, input, output } from '@angular/core';
import { TUNNEL_MTU, TUNNEL_OCTETS, TUNNEL_PARTS, TUNNEL_SEGMENT } from '@iron-lattice/core/document';
import { sheetFor } from '@iron-lattice/core/hardware';
import type { TunnelEnd } from '@iron-lattice/core/intent';
import type { Problem } from '../session/problem';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { counted } from '../ui/counted';

const { ip, gre, key, ethernet } = TUNNEL_PARTS;

/** Whether clients of an SSID come to their segment over cables or in a tunnel; what a tunnel costs, and who it depends on. */
@Component({
  selector: 'il-ssid-tunnel',
  imports: [ChoiceCell],
  template: `
    <il-choice-cell
      label="How its frames get there"
      for="ssid-tunnel"
      size="wide"
      [options]="choices"
      [value]="value()"
      [disabled]="!mayChange()"
      [hint]="hint() || usual()"
      [flaw]="problem()?.of('tunnel')"
      (chosen)="changed.emit({ tunnel: $event })"
    >
      @if (value()) {
        <p class="value">
          {{ octets }} octets more a frame <span class="soft">({{ parts }})</span>; TCP is told segments of
          {{ segment }}, packets of more than {{ mtu }} are parted in two, and what is sent to all goes to each AP by
          itself.
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
  readonly value = input.required<TunnelEnd | null>();
  readonly problem = input.required<Problem | null>();
  readonly mayChange = input.required<boolean>();
  /** Said instead of what the choice means. */
  readonly hint = input('');
  readonly changed = output<{ readonly tunnel: TunnelEnd | null }>();
  protected readonly choices: readonly Choice[] = [
    { value: null, label: 'over the cables, by VLAN' },
    { value: 'gateway', label: 'in a tunnel (GRE) to its site’s gateway' },
    { value: 'site', label: 'in a tunnel to another site’s gateway, once Paths joins sites', later: true },
  ];
  protected readonly octets = TUNNEL_OCTETS;
  protected readonly mtu = TUNNEL_MTU.toLocaleString('en');
  protected readonly segment = TUNNEL_SEGMENT.toLocaleString('en');
  protected readonly parts = `IP ${ip}, GRE ${gre}, key ${key}, Ethernet ${ethernet}`;
  protected readonly usual = computed(() =>
    this.value() ? 'No port on the way needs its VLAN' : 'Every port on the way carries its VLAN',
  );
  /** APs of the site in front that say how the far end of their tunnel is. */
  private readonly told = computed(() =>
    this.value() && !this.shared.atEstate() ? this.store.devices().flatMap(({ tunnel }) => tunnel ?? []) : [],
  );
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
    if (this.shared.atEstate())
      return 'At each site it depends on the gateway: while that is silent, nobody on it gets any further.';
    const name = this.gateway()?.name;
    if (name === undefined) return 'This site has no gateway that would take the frames out.';
    const depends = `It depends on ${name}: while that is silent, nobody on it gets any further, not even to a neighbour on the same AP.`;
    const all = this.told().length;
    if (this.unheard() > 0)
      return `${depends} Now ${this.unheard()} of ${counted(all, 'AP')} ${this.unheard() === 1 ? 'hears' : 'hear'} nothing from it.`;
    if (this.gateway()?.state === 'silent') return `${depends} It is silent now.`;
    return all > 0 ? `${depends} It answers ${all === 1 ? 'the AP' : `all ${all} APs`} now.` : depends;
  });
}
