import { Component, computed, inject, input, output } from '@angular/core';
import { routesOf, sharedHere, type RouteHere, type RouteVia } from '@iron-lattice/core/intent';
import { Router } from '@angular/router';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { BusyParts } from './busy-parts';
import { courseRows } from './course-rows';
import { SiteTunnels } from './joined/site-tunnels';
import { KeptList, type KeptRow } from './kept-list';
import { titleOf, type GatewayRow } from './path-rows';
import { PathsStore } from './paths-store';
import { publicationRows } from './publication-rows';
import { RouteTable } from './route-table';
import { translationRows } from './translation-rows';

/** What is said of how a gateway leaves, beside its uplinks: courses, as what people are seen, and what is published; then what is put in here of its site. */
@Component({
  selector: 'il-gateway-lists',
  imports: [BusyParts, KeptList, RouteTable, SiteTunnels],
  template: `
    @let gateway = row();
    @if (standsFor(); as other) {
      <p class="soft">
        What is said of {{ other }} holds at {{ gateway.device.name }} too, while it routes. What stands here holds at
        it alone.
      </p>
    }
    <il-kept-list
      heading="Courses"
      hint="What leaves otherwise than the rest. The first that fits a packet decides."
      add="Add a course"
      none="None: everything leaves as drawn above. A course has, say, tickets leave by cable alone, or calls by whatever is quick enough."
      [label]="'Courses of ' + gateway.device.name"
      [ordered]="true"
      [mayAdd]="gateway.uplinks.length > 0"
      [rows]="courses()"
      [shown]="shown()"
      (picked)="picked.emit($event)"
      (added)="picked.emit('course-new:' + gateway.device.id)"
    />
    <il-kept-list
      heading="Published"
      hint="What people outside reach, and nothing else. What it exposes stands under Rules, in Reach."
      add="Publish a port"
      none="Nothing: nobody outside begins anything with the inside. Publish a port for, say, a ticket shop that stands here."
      [label]="'Published by ' + gateway.device.name"
      [mayAdd]="gateway.uplinks.length > 0"
      [rows]="published()"
      [shown]="shown()"
      (picked)="picked.emit($event)"
      (added)="picked.emit('published-new:' + gateway.device.id)"
    />
    <il-kept-list
      heading="Seen outside as"
      hint="Who leaves with another address than its uplink’s. The first that fits a packet decides."
      add="Add a translation"
      [none]="usual()"
      [label]="'Translations of ' + gateway.device.name"
      [ordered]="true"
      [mayAdd]="gateway.uplinks.length > 0"
      [rows]="translations()"
      [shown]="shown()"
      (picked)="picked.emit($event)"
      (added)="picked.emit('translation-new:' + gateway.device.id)"
    />
    <il-kept-list
      heading="Routes"
      hint="What is for some prefixes goes another way than the rest: to a neighbour that hands it on, by one uplink, or nowhere."
      add="Add a route"
      none="None: what is for a segment goes there, and everything else leaves by the uplinks. A route has, say, the network of the harbour works reached through their router."
      [label]="'Routes of ' + gateway.device.name"
      [rows]="routes()"
      [shown]="shown()"
      (picked)="pick($event)"
      list="Bring a list"
      (listed)="picked.emit('route-list:' + gateway.device.id)"
      (added)="picked.emit('route-new:' + gateway.device.id)"
    />
    <ng-content />
    <il-site-tunnels [gateway]="gateway" [now]="now()" [holds]="holds()" [shown]="shown()" />
    <il-route-table [gateway]="gateway" [holds]="holds()" />
    <il-busy-parts [gateway]="gateway" />
  `,
  styles: `
    p {
      margin: 8px 14px;
    }
  `,
})
export class GatewayLists {
  private readonly store = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  private readonly paths = inject(PathsStore);
  private readonly router = inject(Router);
  readonly row = input.required<GatewayRow>();
  /** Whether it has the addresses of the segments. */
  readonly holds = input.required<boolean>();
  /** The gateway that routes now, where it is of a pair; else the same. */
  readonly now = input.required<GatewayRow>();
  /** What is said of this gateway holds here too; absent: it is of no pair, or the first of it. */
  readonly standsFor = input<string | null>(null);
  /** What has its sheet open: `course:ID`, `published:ID`, `translation:ID` or `route:ID`. */
  readonly shown = input<string | null>(null);
  /** The same, or of a new one `course-new:DEVICE`, and so on. */
  readonly picked = output<string>();
  protected readonly courses = computed(() =>
    courseRows(this.row()).map(({ course, whom, ways, now, fits }): KeptRow => ({
      ...{ key: `course:${course.id}`, name: course.name, off: course.off ?? false },
      cells: [{ text: whom }, { text: ways }, { text: now, tone: fits === false ? 'bad' : fits ? 'good' : 'soft' }],
    })),
  );
  protected readonly published = computed(() => {
    const site = this.store.site();
    if (!site) return [];
    const hours = this.shared.estate()?.hours;
    return publicationRows(site, this.row(), this.paths.hits(), hours).map((row): KeptRow => {
      const { publication, asked, at, leads, whom, now } = row;
      return {
        ...{ key: `published:${publication.id}`, name: publication.name, off: publication.off ?? false },
        cells: [
          { text: `${asked} at ${at.join(', ') || 'no uplink'}` },
          { text: `→ ${leads}`, tone: 'mono' },
          { text: whom },
          { text: now, tone: 'soft' },
        ],
      };
    });
  });
  protected readonly translations = computed(() => {
    const site = this.store.site();
    return site ? translationRows(site, this.row()) : [];
  });
  protected readonly routes = computed(() => {
    const site = this.store.site();
    const { device, uplinks } = this.row();
    const leads = (via: RouteVia): string => {
      if (via.kind !== 'uplink') return via.kind === 'address' ? `to ${via.address}` : 'nowhere';
      const uplink = uplinks.find(({ port }) => port === via.port);
      return `by ${uplink ? titleOf(uplink) : via.port}`;
    };
    const shared = site && this.holds() ? sharedHere(this.shared.estate()?.routes, site, device) : [];
    const ofSites = shared.map(({ shared: each, here }): KeptRow => ({
      ...{ key: `shared-route:${each.id}`, name: each.name, off: 'why' in here },
      cells: [
        { text: each.prefix, tone: 'mono' },
        { text: 'why' in here ? here.why : leads(here.route.via) },
        { text: ['of all sites', ...this.fares(here)].join(', '), tone: 'soft' },
      ],
    }));
    const own = (site ? routesOf(site, device.id) : []).map((each): KeptRow => {
      const { id, name, prefix, via, metric, off } = each;
      return {
        ...{ key: `route:${id}`, name, off: off ?? false },
        cells: [
          { text: prefix, tone: 'mono' },
          { text: leads(via) },
          {
            text: [...(off ? ['off'] : metric ? [`metric ${metric}`] : []), ...this.fares({ route: each })].join(', '),
            tone: 'soft',
          },
        ],
      };
    });
    return [...own, ...ofSites];
  });

  /** How a route fares that is tracked, in words. */
  private fares(here: RouteHere): string[] {
    if (!('route' in here) || !here.route.tracks) return [];
    const told = this.row().fact?.routes?.find(({ name }) => name === here.route.name);
    if (!told) return ['tracked'];
    return [told.up ? 'what it tracks answers' : 'not there: what it tracks does not answer'];
  }

  /** One of all sites has its sheet over all of them. */
  protected pick(key: string): void {
    const [kind, id] = key.split(':');
    if (kind !== 'shared-route') return this.picked.emit(key);
    void this.router.navigate(['/paths'], { queryParams: { as: 'routes', show: id } });
  }

  /** As what everybody is seen while nothing is said. */
  protected readonly usual = computed(() => {
    const plain = this.row().uplinks.filter(({ setting }) => !setting.translate);
    const all = 'None: everybody is seen as the address of the uplink that it leaves by';
    const besides = plain.map(({ port }) => port).join(' and ');
    return plain.length === 0 ? `${all}.` : `${all}; by ${besides} as itself.`;
  });
}
