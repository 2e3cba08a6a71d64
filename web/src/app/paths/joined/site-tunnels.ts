import { Component, computed, inject, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { memberAt, overlayAt } from '@iron-lattice/core/intent';
import { SharedStore } from '../../shell/shared-store';
import { SiteStore } from '../../shell/site-store';
import { ListHead } from '../list-head';
import type { GatewayRow } from '../path-rows';
import { tunnelWords, type TunnelState } from './joined-rows';

/** Tunnels that are told in a list at a site; a hub has hundreds, which stand over all sites. */
const MOST_TOLD = 40;

/** The tunnels of a site’s gateway to other sites, and what it shares with them. */
@Component({
  selector: 'il-site-tunnels',
  imports: [ListHead, RouterLink],
  template: `
    @if (isEnd()) {
      <il-list-head heading="Joined to other sites" [hint]="hint()">
        @if (member()) {
          <a [href]="file()" download>As WireGuard reads it</a>
        }
        <a [routerLink]="['/joined']" [queryParams]="member() ? { show: member()!.id } : {}">{{
          member() ? 'Change it over all sites' : 'Join it over all sites'
        }}</a>
      </il-list-head>
      <ul [class.shown]="member() && shown() === 'joined:' + member()!.id">
        @for (tunnel of tunnels(); track tunnel.name) {
          <li>
            <b>{{ tunnel.name }}</b>
            <span [class]="tunnel.state">{{ tunnel.words }}</span>
          </li>
        } @empty {
          <li class="soft">{{ member() ? 'No tunnel can be: see what is found.' : 'It is joined to none.' }}</li>
        }
        @if (more() > 0) {
          <li class="soft">and {{ more() }} more, over all sites</li>
        }
      </ul>
    }
  `,
  styles: `
    ul {
      list-style: none;
      margin: 0 0 10px;
      padding: 0 14px;
    }
    ul.shown {
      background: var(--tint);
    }
    li {
      display: grid;
      grid-template-columns: 150px minmax(0, 1fr);
      gap: 10px;
      padding: 4px 0;
      border-top: 1px solid var(--rule);
    }
    li.soft {
      display: block;
    }
    .up {
      color: var(--good);
    }
    .down {
      color: var(--bad);
    }
  `,
})
export class SiteTunnels {
  private readonly store = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  readonly gateway = input.required<GatewayRow>();
  /** Whether it routes the segments, so that tunnels end there. */
  readonly holds = input.required<boolean>();
  /** The gateway that has them now: of a pair the one that routes. */
  readonly now = input.required<GatewayRow>();
  readonly shown = input<string | null>(null);
  protected readonly member = computed(() => {
    const [estate, siteId] = [this.shared.estate(), this.store.siteId()];
    return estate && siteId ? (memberAt(estate, siteId) ?? null) : null;
  });
  protected readonly isEnd = computed(() => {
    const member = this.member();
    return member ? member.deviceId === this.gateway().device.id : this.holds();
  });
  protected readonly file = computed(() => {
    const at = `/api/drafts/${this.store.draft()?.id}/sites/${this.store.siteId()}`;
    return `${at}/gateways/${this.gateway().device.id}/uplinks/wg`;
  });
  private readonly told = computed(() => {
    const [estate, siteId] = [this.shared.estate(), this.store.siteId()];
    return estate && siteId ? overlayAt(estate, siteId) : null;
  });
  protected readonly hint = computed(() => {
    const told = this.told();
    if (!told) return 'Tunnels to gateways of other sites, through which their networks are reached.';
    const what =
      told.role === 'hub' ? 'A hub, which hands on what is for others' : 'What is for others goes by its hubs';
    return `${what}. It shares ${told.shares.join(', ') || 'nothing'}.`;
  });
  private readonly all = computed(() => {
    const facts = new Map((this.now().fact?.tunnels ?? []).map((each) => [each.peer, each]));
    return (this.told()?.peers ?? []).map(({ name }) => {
      const fact = facts.get(name) ?? null;
      const state: TunnelState = fact ? (fact.up ? 'up' : 'down') : 'untold';
      return { name, state, words: tunnelWords({ state, fact }) };
    });
  });
  protected readonly tunnels = computed(() => this.all().slice(0, MOST_TOLD));
  protected readonly more = computed(() => this.all().length - this.tunnels().length);
}
