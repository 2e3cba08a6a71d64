import { Component, computed, inject, input, output } from '@angular/core';
import type { RouterTries } from '@iron-lattice/core/assess';
import { SiteStore } from '../shell/site-store';
import { KeptList, type KeptRow } from './kept-list';
import { routerWords } from './router-text';

/** What routes in place of the gateway, in a list. */
@Component({
  selector: 'il-router-list',
  imports: [KeptList],
  template: `
    <il-kept-list
      heading="Other routers"
      hint="What routes some segments in place of the gateway: a switch that can, or a box of others as it is assumed to be."
      add="Add a router"
      none="None: the gateway routes every segment. Another router is, say, the recorder of the cameras, which came with a network of its own."
      label="Other routers"
      [rows]="rows()"
      [shown]="shown()"
      (picked)="picked.emit($event)"
      (added)="picked.emit('router-new:')"
    />
  `,
})
export class RouterList {
  private readonly store = inject(SiteStore);
  readonly tries = input.required<Readonly<Record<string, RouterTries>>>();
  /** What has its sheet open: `router:ID`. */
  readonly shown = input<string | null>(null);
  readonly picked = output<string>();
  protected readonly rows = computed((): KeptRow[] => {
    const data = this.store.data();
    if (!data) return [];
    return (data.site.routers ?? []).map((router): KeptRow => {
      const [what, routes, meets] = routerWords(data.site, data.roster, router);
      const found = this.tries()[router.id];
      const other = found?.results.filter(({ is }) => is === 'other').length ?? 0;
      const fares = !found ? 'not tried yet' : other > 0 ? `${other} otherwise than assumed` : 'as assumed when tried';
      return {
        ...{ key: `router:${router.id}`, name: router.name, off: false },
        cells: [
          { text: `${what!}${meets ? `; ${meets}` : ''}` },
          { text: routes! },
          { text: fares, tone: !found ? 'soft' : other > 0 ? 'bad' : 'good' },
        ],
      };
    });
  });
}
