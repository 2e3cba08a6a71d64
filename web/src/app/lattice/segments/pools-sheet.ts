import { Component, computed, inject, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { parseVlanList } from '@iron-lattice/core/address';
import type { VlanPool } from '@iron-lattice/core/intent';
import { poolSpread } from '@iron-lattice/core/lattice';
import { SessionStore } from '../../session/session-store';
import { attempt, type Problem } from '../../session/problem';
import { SiteStore } from '../../shell/site-store';
import { Cell } from '../../ui/cell';
import { Sheet } from '../../ui/sheet';
import { LatticeFacts } from '../facts/lattice-facts';
import { TextCell } from '../../ui/text-cell';

/** The VLAN pools of a site: their members, and how the clients that are known would spread over them. */
@Component({
  selector: 'il-pools-sheet',
  imports: [MatButtonModule, Cell, Sheet, TextCell],
  template: `
    <il-sheet
      heading="VLAN pools"
      note="An SSID that names a pool spreads its clients over the pool’s segments; the same MAC address always lands in the same one."
      (closed)="closed.emit()"
    >
      <div class="cells">
        @for (pool of pools(); track pool.id) {
          <il-text-cell
            label="Pool"
            [for]="'pool-name-' + pool.id"
            [readonly]="!session.mayChange()"
            [value]="pool.name"
            (done)="set(pool, { name: $event })"
          />
          <il-text-cell
            label="VLAN IDs"
            [for]="'pool-vlans-' + pool.id"
            hint="Like 2,30-32,40"
            [flaw]="flawed() === pool.id ? problem()?.message : ''"
            [mono]="true"
            [readonly]="!session.mayChange()"
            [value]="pool.vlans"
            (typed)="typed.set({ id: pool.id, vlans: $event })"
            (done)="set(pool, { vlans: $event })"
          />
          <il-cell [label]="'How ' + macs().length + ' known clients spread'" size="wide">
            @let spread = spreads().get(pool.id);
            @for (share of spread?.shares; track share.vlan) {
              <div class="bar">
                <span class="mono">{{ share.vlan }}</span>
                <span class="track"><i [style.width.%]="share.percent"></i></span>
                <span class="mono">{{ share.clients }}</span>
              </div>
            }
            @if (spread?.moved; as moved) {
              <p role="status">
                {{ moved }} of them {{ moved === 1 ? 'moves' : 'move' }} to another segment when this is rolled out.
              </p>
            }
            @if (session.mayChange()) {
              <button mat-button (click)="remove(pool)">Remove the pool</button>
            }
          </il-cell>
        } @empty {
          <div class="cell full">
            <p class="soft">
              No pool yet. A pool keeps one busy SSID from filling one subnet: give it a name and the VLAN IDs of the
              segments that share its clients, then choose it under Wireless in place of a segment.
            </p>
          </div>
        }
        @if (session.mayChange()) {
          <il-text-cell
            label="New pool"
            for="pool-new-name"
            [flaw]="flawed() === 'new' ? problem()?.of('name') : ''"
            example="Name"
            [value]="name"
            (typed)="name = $event"
          />
          <il-text-cell
            label="VLAN IDs"
            for="pool-new-vlans"
            hint="Up to 64"
            [flaw]="flawed() === 'new' ? problem()?.of('vlans') : ''"
            [mono]="true"
            example="2,30-32,40"
            [value]="vlans"
            (typed)="vlans = $event"
          />
          <div class="cell"><button class="add" mat-stroked-button (click)="add()">Add pool</button></div>
        }
      </div>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    .bar {
      display: grid;
      grid-template-columns: 40px 1fr 40px;
      gap: 8px;
      align-items: center;
      line-height: 16px;
      max-width: 420px;
    }
    .track {
      border: 1px solid var(--ink);
      height: 8px;
    }
    .track i {
      display: block;
      height: 100%;
      background: var(--good);
    }
    .add {
      margin-top: 16px;
    }
  `,
})
export class PoolsSheet {
  private readonly store = inject(SiteStore);
  private readonly facts = inject(LatticeFacts);
  protected readonly session = inject(SessionStore);
  readonly closed = output<void>();
  protected name = '';
  protected vlans = '';
  protected readonly problem = signal<Problem | null>(null);
  /** What is being typed for a pool: shown before it is said. */
  protected readonly typed = signal<{ readonly id: string; readonly vlans: string } | null>(null);
  /** Which pool the problem is of. */
  protected readonly flawed = signal('');
  protected readonly pools = computed(() => this.store.site()?.pools ?? []);
  /** Clients on the air: those that an SSID’s pool would part. */
  protected readonly macs = computed(() =>
    (this.facts.clients() ?? []).filter((client) => client.at?.ssid !== undefined).map((client) => client.mac),
  );
  protected readonly spreads = computed(
    () =>
      new Map(
        this.pools().map((pool) => {
          const live = this.store.data()?.livePools.find((each) => each.id === pool.id);
          const ids = idsOf(this.typed()?.id === pool.id ? this.typed()!.vlans : pool.vlans) ?? idsOf(pool.vlans) ?? [];
          const { counts, moved } = poolSpread(this.macs(), ids, (live && idsOf(live.vlans)) ?? ids);
          const most = Math.max(1, ...counts.map(({ clients }) => clients));
          const shares = counts.map((each) => ({ ...each, percent: (100 * each.clients) / most }));
          return [pool.id, { shares, moved }] as const;
        }),
      ),
  );

  protected add(): Promise<void> {
    const pool = { id: crypto.randomUUID(), name: this.name, vlans: this.vlans };
    return this.attempt('new', async () => {
      await this.store.edit([{ type: 'pool.add', siteId: this.store.siteId()!, pool }]);
      this.name = this.vlans = '';
    });
  }

  protected set(pool: VlanPool, to: Partial<VlanPool>): Promise<void> {
    const from = Object.fromEntries(Object.keys(to).map((key) => [key, pool[key as keyof VlanPool]]));
    return this.attempt(pool.id, () =>
      this.store.edit([{ type: 'pool.set', siteId: this.store.siteId()!, poolId: pool.id, from, to }]),
    );
  }

  protected remove(pool: VlanPool): Promise<void> {
    return this.attempt(pool.id, () =>
      this.store.edit([{ type: 'pool.remove', siteId: this.store.siteId()!, poolId: pool.id }]),
    );
  }

  private async attempt(which: string, act: () => Promise<void>): Promise<void> {
    if (!(await attempt(null, this.problem, act))) this.flawed.set(which);
  }
}

/** The VLANs of a list; null while it is none. */
function idsOf(vlans: string): readonly number[] | null {
  const list = parseVlanList(vlans);
  return list.ok ? list.ids : null;
}
