import { Component, computed, inject, input, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { SessionStore } from '../session/session-store';
import { attempt, type Problem } from '../session/problem';
import { SiteStore } from '../shell/site-store';
import { ListHead } from './list-head';
import { addressWords, madePair, standWords, waitWords } from './pair-text';
import type { GatewayRow } from './path-rows';

/** Two gateways of a site: who of them routes, and who takes over. */
@Component({
  selector: 'il-pair-strip',
  imports: [MatButtonModule, ListHead],
  template: `
    <il-list-head heading="Pair of gateways" [hint]="hint()">
      @if (session.mayChange()) {
        @if (pair()) {
          <button mat-stroked-button type="button" (click)="picked.emit('pair')">Change the pair</button>
        } @else {
          <button mat-stroked-button type="button" [disabled]="busy()" (click)="make()">Make a pair of them</button>
        }
      } @else if (pair()) {
        <button mat-stroked-button type="button" (click)="picked.emit('pair')">Look at the pair</button>
      }
    </il-list-head>
    @if (pair()) {
      <ul [class.shown]="shown()">
        @for (one of both(); track one.name) {
          <li [class]="one.tone">
            <i aria-hidden="true"></i>
            <b class="mono">{{ one.name }}</b>
            <span>{{ one.words }}</span>
          </li>
        }
      </ul>
      <p class="soft">{{ words() }}</p>
    }
    @if (problem(); as wrong) {
      <p class="flaw" role="alert">{{ wrong.message }}</p>
    }
  `,
  styles: `
    :host {
      display: block;
      border-bottom: 1px solid var(--rule);
      padding: 4px 0 6px;
    }
    ul {
      list-style: none;
      margin: 2px 14px;
      padding: 0;
      border-left: 3px double var(--ink);
    }
    ul.shown {
      border-left-color: var(--iron);
    }
    li {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 10px;
      padding: 2px 12px;
    }
    li i {
      width: 10px;
      height: 10px;
      border: 2px solid var(--strong);
    }
    .routes i {
      background: var(--good);
      border-color: var(--good);
    }
    .bad i {
      border-color: var(--bad);
      transform: rotate(45deg);
    }
    p {
      margin: 4px 14px;
    }
  `,
})
export class PairStrip {
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly gateways = input.required<readonly GatewayRow[]>();
  /** Ids of those that are not heard from. */
  readonly silent = input.required<ReadonlySet<string>>();
  readonly time = input.required<(ms: number) => string>();
  readonly shown = input.required<boolean>();
  readonly picked = output<string>();
  protected readonly busy = signal(false);
  protected readonly problem = signal<Problem | null>(null);
  protected readonly pair = computed(() => this.store.site()?.pair ?? null);
  protected readonly hint = computed(() => {
    if (this.pair())
      return 'They share the gateway addresses: one routes, the other stands by and takes over (VRRP, RFC 9568).';
    const [first, ...others] = this.gateways().map(({ device: { name } }) => name);
    return `${first} routes alone, and ${others.join(', ')} ${others.length === 1 ? 'holds' : 'hold'} no address of a segment: when ${first} fails, so does the site.`;
  });
  protected readonly both = computed(() => {
    const pair = this.pair();
    const rows = new Map(this.gateways().map((row) => [row.device.id, row]));
    const ids = pair ? [pair.firstId, pair.secondId] : [];
    const nameOf = (id: string): string => rows.get(id)?.device.name ?? 'a gateway that is gone';
    return ids.map((id, i) => {
      const row = rows.get(id);
      const report = row?.fact?.pair;
      const other = nameOf(ids[1 - i]!);
      if (row?.device.expected)
        return { name: nameOf(id), words: 'is expected: it takes over once it called', tone: '' };
      if (this.silent().has(id))
        return { name: nameOf(id), words: `is not heard from: whether it routes is not known`, tone: 'bad' };
      const tone = report?.state === 'active' ? 'routes' : report && !report.hears ? 'bad' : '';
      return { name: nameOf(id), words: standWords(report, other, this.time()), tone };
    });
  });
  protected readonly words = computed(() => {
    const [pair, data] = [this.pair(), this.store.data()];
    return pair && data ? `${addressWords(data.site, data.roster)} ${waitWords(pair)}` : '';
  });

  protected async make(): Promise<void> {
    const data = this.store.data();
    const to = data && madePair(data.site, data.roster);
    if (!to) return;
    // Its sheet opens as soon as it is there.
    this.picked.emit('pair');
    await attempt(this.busy, this.problem, () =>
      this.store.edit([{ type: 'pair.set', siteId: this.store.siteId()!, from: null, to }]),
    );
  }
}
