import { Component, computed, inject, input, output } from '@angular/core';
import type { PactReport } from '@iron-lattice/core/paths';
import { SiteStore } from '../../shell/site-store';
import { KeptList, type KeptRow } from '../kept-list';
import { faresWords } from './pact-words';

/** The tunnels of a site to gateways of others, in a list. */
@Component({
  selector: 'il-pact-list',
  imports: [KeptList],
  template: `
    <il-kept-list
      heading="Tunnels to gateways of others"
      hint="What is behind a gateway that is not ours, through a tunnel that both agree on (IKEv2)."
      add="Add a tunnel"
      none="None. Such a tunnel leads, say, to the stores of a supplier, whose gateway its own people look after."
      label="Tunnels to gateways of others"
      [rows]="rows()"
      [shown]="shown()"
      (picked)="picked.emit($event)"
      (added)="picked.emit('pact-new:')"
    />
  `,
})
export class PactList {
  private readonly store = inject(SiteStore);
  /** What gateways last told of them, by name. */
  readonly reports = input.required<ReadonlyMap<string, PactReport>>();
  /** What has its sheet open: `pact:ID`. */
  readonly shown = input<string | null>(null);
  readonly picked = output<string>();
  protected readonly rows = computed((): KeptRow[] => {
    const site = this.store.site();
    return (site?.pacts ?? []).map(({ id, name, at, segments, prefixes, behind }): KeptRow => {
      const here = site!.segments.filter((each) => segments.includes(each.id)).map((each) => each.name);
      const { text, tone } = faresWords(this.reports().get(name));
      return {
        ...{ key: `pact:${id}`, name, off: false },
        cells: [
          { text: at ? `to ${at}` : 'it calls us' },
          { text: `${short([...here, ...(prefixes ?? [])])} ↔ ${short(behind)}` },
          { text, tone },
        ],
      };
    });
  });
}

const short = (all: readonly string[]): string =>
  `${all.slice(0, 3).join(', ')}${all.length > 3 ? ` and ${all.length - 3} more` : ''}`;
