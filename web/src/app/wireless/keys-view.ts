import { Component, DestroyRef, computed, effect, inject, input, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatMenuModule } from '@angular/material/menu';
import { RouterLink } from '@angular/router';
import { keyTable, type RingKeyView } from '@iron-lattice/core/wireless';
import { SessionStore } from '../session/session-store';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { counted } from '../ui/counted';
import type { TableColumn } from '../ui/data-rows';
import { DataTable } from '../ui/data-table';
import { saveTable } from '../ui/export-rows';
import { printSlips } from '../ui/slips';
import { keySlip } from './key-slips';
import { RingStore, type KeyState } from './ring-store';

const TONES: Readonly<Partial<Record<KeyState, string>>> = {
  right: 'good',
  'to be rolled out': 'caution',
  'leads nowhere here': 'bad',
};

/** The keys of a ring: whom each is for, where it leads, who is on the air with it. */
@Component({
  selector: 'il-keys-view',
  imports: [MatButtonModule, MatMenuModule, RouterLink, DataTable],
  template: `
    @if (store.ssid(); as ssid) {
      <div class="bar">
        @if (store.rings().length > 1) {
          <div class="choices" role="group" aria-label="Ring of which SSID">
            @for (each of store.rings(); track each.id) {
              <button type="button" [attr.aria-pressed]="each.id === ssid.id" (click)="choose(each.id)">
                {{ each.name }}
              </button>
            }
          </div>
        } @else {
          <h2>{{ ssid.name }}</h2>
        }
        <span class="soft" role="status">{{ words() }}</span>
        @if (waiting(); as count) {
          <span class="caution">{{ count }}</span>
        }
        <span class="grow"></span>
        @if (session.mayChange()) {
          @if (picked().size > 0) {
            <button mat-stroked-button (click)="revoke()">Take back {{ picked().size }}</button>
          }
          <button mat-button [matMenuTriggerFor]="out" [disabled]="chosen().length === 0">{{ chosenWords() }}…</button>
          <mat-menu #out>
            <button mat-menu-item (click)="print()">Print slips</button>
            <button mat-menu-item (click)="save('csv')">CSV with the keys</button>
            <button mat-menu-item (click)="save('xlsx')">XLSX with the keys</button>
            @if (!shared.atEstate()) {
              <a mat-menu-item [href]="store.fileUrl()" download>All of the ring for hostapd (wpa_psk_file)</a>
            }
          </mat-menu>
          <button mat-stroked-button (click)="store.sheet.set({ of: 'list' })">Bring a list</button>
          <button mat-stroked-button (click)="store.sheet.set({ of: 'many' })">Make many</button>
          <button mat-flat-button (click)="store.sheet.set({ of: 'new' })">Add key</button>
        }
      </div>
      @if (elsewhere(); as words) {
        <p class="caution notice">{{ words }}</p>
      }
      <il-data-table
        label="Keys"
        remember="ring-keys"
        [rows]="store.keys()"
        [columns]="columns"
        [key]="key"
        [name]="name"
        [pickable]="session.mayChange()"
        [(picked)]="picked"
        [shown]="store.key()?.id ?? null"
        (opened)="store.sheet.set({ of: 'key', id: $event.id })"
      >
        <span empty>{{
          store.problem()?.message ??
            (store.view() ? 'No key yet. Add one, or make many at once with the segments they lead to.' : 'Asking…')
        }}</span>
      </il-data-table>
    } @else {
      <p class="soft none">
        No SSID here asks for keys. Open one under
        <a [routerLink]="[]" [queryParams]="{ as: null }" queryParamsHandling="merge">SSIDs</a>, or add one, and choose
        “Key ring” as its security: one name on the air, and a key for each berth, tenant or machine.
      </p>
    }
  `,
  styles: `
    .notice {
      margin: 0;
      padding: 8px 14px;
      border-bottom: 1px solid var(--rule);
    }
    :host {
      display: flex;
      flex-direction: column;
      height: 100%;
    }
    .bar {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 6px 10px;
      padding: 0 14px 8px;
      flex: none;
    }
    h2 {
      margin: 0;
    }
    il-data-table {
      flex: 1;
      min-height: 0;
    }
    .none {
      padding: 6px 14px;
    }
  `,
})
export class KeysView {
  protected readonly store = inject(RingStore);
  protected readonly shared = inject(SharedStore);
  protected readonly session = inject(SessionStore);
  private readonly site = inject(SiteStore);
  /** Id of the SSID whose keys are wanted. */
  readonly wanted = input<string>();
  protected readonly picked = signal<ReadonlySet<string>>(new Set());
  protected readonly key = ({ id }: RingKeyView): string => id;
  protected readonly name = ({ name }: RingKeyView): string => name;
  private readonly right = computed(() => this.store.keys().filter(({ revokedAt }) => revokedAt === null));
  /** Those that are chosen, or all that are right. */
  protected readonly chosen = computed(() => {
    const picked = this.picked();
    return picked.size === 0 ? this.right() : this.store.keys().filter(({ id }) => picked.has(id));
  });
  protected readonly chosenWords = computed(() =>
    this.picked().size === 0 ? `All ${this.right().length}` : `${this.picked().size} chosen`,
  );
  /** That RADIUS servers name its keys, or will, or do no more. */
  protected readonly elsewhere = computed(() => {
    const [ssid, view] = [this.store.ssid(), this.store.view()];
    const [now, then] = [view?.atServers ?? false, ssid?.keysAt === 'servers'];
    if (!ssid || (!now && !then)) return '';
    const asks = `Access points ask RADIUS servers for the keys of “${ssid.name}”`;
    const none = 'what is kept here lets nobody in';
    if (now) return `${asks}: ${none}${then ? ' while they do' : ' until this draft is rolled out'}.`;
    return `${asks} once this draft is rolled out: ${none} from then on.`;
  });
  protected readonly words = computed(() => {
    const view = this.store.view();
    if (!view) return 'Asking…';
    const now = view.keys.reduce((sum, each) => sum + each.now.length, 0);
    const told =
      view.live === null
        ? 'right once the SSID is rolled out'
        : view.atServers
          ? 'none is asked for'
          : view.aps === 0
            ? 'no AP sends it'
            : `${view.told} of ${counted(view.aps, 'AP')} have them`;
    const all = this.right().length;
    const left = view.live === null || view.masters >= all ? '' : `; master keys of ${view.masters} worked out`;
    return `${counted(all, 'key')}, ${counted(now, 'device')} on the air, ${told}${left}`;
  });
  /** Keys that let nobody in here since their segment is not there. */
  protected readonly waiting = computed(() => {
    const lost = this.right().filter((key) => this.store.stateOf(key) === 'leads nowhere here').length;
    return lost === 0 ? '' : `${counted(lost, 'key')} lead nowhere here`;
  });

  protected readonly columns: readonly TableColumn<RingKeyView>[] = [
    { key: 'name', title: 'Key for', text: ({ name }) => name, width: 120, phone: true },
    {
      key: 'state',
      title: 'Is',
      text: (key) => this.store.stateOf(key),
      tone: (key) => TONES[this.store.stateOf(key)] ?? 'soft',
      width: 112,
      groups: true,
      phone: true,
    },
    {
      key: 'segment',
      title: 'Leads to',
      text: ({ segment, accessClass }) =>
        accessClass === null ? (segment ?? this.store.ssid()?.segment ?? '') : `class ${accessClass}`,
      width: 110,
      groups: true,
    },
    {
      key: 'devices',
      title: 'Devices',
      text: ({ devices, most }) => `${devices.length}${most === null ? '' : ` of ${most}`}`,
      order: ({ devices }) => devices.length,
      width: 66,
      mono: true,
    },
    {
      key: 'now',
      title: 'Now',
      text: ({ now }) => (now.length === 0 ? '' : String(now.length)),
      order: ({ now }) => now.length,
      width: 44,
      mono: true,
      phone: true,
    },
    { key: 'until', title: 'Until', text: ({ until }) => until ?? '', width: 110, mono: true },
    { key: 'from', title: 'From', text: ({ from }) => from ?? '', width: 110, mono: true, hidden: true },
    { key: 'macs', title: 'Bound to', text: ({ macs }) => macs.join(' '), width: 130, mono: true },
    { key: 'note', title: 'Note', text: ({ note }) => note, width: 120 },
    { key: 'by', title: 'By', text: ({ by }) => by, width: 80, hidden: true, groups: true },
    { key: 'at', title: 'Made', text: ({ at }) => at.slice(0, 16).replace('T', ' '), width: 120, hidden: true },
  ];

  constructor() {
    this.store.inSight.set(true);
    inject(DestroyRef).onDestroy(() => this.store.inSight.set(false));
    effect(() => {
      const wanted = this.wanted();
      if (wanted) this.store.wanted.set(wanted);
    });
  }

  protected choose(id: string): void {
    this.store.wanted.set(id);
    this.picked.set(new Set());
    this.store.sheet.set(null);
  }

  protected async revoke(): Promise<void> {
    const ids = this.right()
      .filter(({ id }) => this.picked().has(id))
      .map(({ id }) => id);
    if (ids.length > 0 && (await this.store.revoke(ids))) this.picked.set(new Set());
  }

  protected async print(): Promise<void> {
    await this.site.attempt(async () => {
      const ssid = this.store.ssid()!;
      const keys = await this.store.reveal(this.chosen().map(({ id }) => id));
      await printSlips(this.chosen().map((each) => keySlip(each, keys[each.id]!, ssid)));
    });
  }

  protected async save(as: 'csv' | 'xlsx'): Promise<void> {
    await this.site.attempt(async () => {
      const keys = await this.store.reveal(this.chosen().map(({ id }) => id));
      await saveTable('keys', keyTable(this.chosen().map((each) => ({ ...each, key: keys[each.id]! }))), as);
    });
  }
}
