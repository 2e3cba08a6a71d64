import { Component, computed, inject, input, model, output, signal } from '@angular/core';
import { meshTree, type Hang } from '@iron-lattice/core/assess';
import { USUAL_MESH } from '@iron-lattice/core/intent';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { counted } from '../ui/counted';
import type { TableColumn } from '../ui/data-rows';
import { DataTable } from '../ui/data-table';
import { AirStore } from './air-store';
import { MeshDrawing, type DrawnHang } from './mesh-drawing';
import { lostOf, meshRows, ownWords, WHEN, type MeshRow } from './mesh-rows';

/** APs without a cable: who hangs on whom by radio, in the draft and now, and every AP in a table. */
@Component({
  selector: 'il-mesh-view',
  imports: [DataTable, MeshDrawing],
  template: `
    <div class="view">
      <div class="bar">
        <button type="button" class="site" [attr.aria-pressed]="siteOpen()" (click)="site.emit()">
          <b>All APs here</b>
          <span>{{ siteWords() }}</span>
        </button>
        <div class="choices" role="group" aria-label="Which links are shown">
          <button type="button" [attr.aria-pressed]="!live()" (click)="live.set(false)">In the draft</button>
          <button type="button" [attr.aria-pressed]="live()" (click)="live.set(true)">Now</button>
        </div>
      </div>
      @if (hangs().length > 0) {
        <il-mesh-drawing [hangs]="hangs()" [names]="names()" (picked)="picked.set(one($event))" />
        <p class="soft legend">{{ legend() }}</p>
      } @else {
        <p class="soft none">{{ noneWords() }}</p>
      }
      <il-data-table
        label="How APs hang"
        remember="site-mesh"
        [rows]="rows()"
        [columns]="columns()"
        [key]="key"
        [name]="name"
        [pickable]="session.mayChange()"
        [picked]="picked()"
        (pickedChange)="picked.set($event)"
        [shown]="only()"
        (opened)="picked.set(one($event.key))"
      >
        <span empty>No access point here yet. Claim one under Intake: it is taken in on a cable once.</span>
      </il-data-table>
    </div>
  `,
  styles: `
    :host {
      display: block;
      height: 100%;
    }
    .view {
      height: 100%;
      display: flex;
      flex-direction: column;
    }
    .bar {
      display: flex;
      flex-wrap: wrap;
      gap: 6px 14px;
      align-items: center;
      padding: 2px 14px 8px;
      flex: none;
    }
    .site {
      display: flex;
      gap: 8px;
      padding: 4px 10px;
      font: inherit;
      color: inherit;
      background: var(--sheet);
      border: 1px solid var(--strong);
      cursor: pointer;
      text-align: left;
    }
    .site[aria-pressed='true'] {
      border-color: var(--iron);
      box-shadow: inset 0 -2px var(--iron);
    }
    il-mesh-drawing {
      flex: none;
      max-height: 45%;
    }
    .legend,
    .none {
      margin: 0;
      padding: 4px 14px 10px;
      flex: none;
    }
    il-data-table {
      flex: 1;
      min-height: 160px;
    }
    @media (max-width: 720px) {
      .bar {
        padding: 2px 10px 8px;
      }
      .site {
        min-height: 40px;
        align-items: center;
      }
    }
  `,
})
export class MeshView {
  private readonly store = inject(SiteStore);
  private readonly air = inject(AirStore);
  protected readonly session = inject(SessionStore);
  /** Ids of the APs that are chosen. */
  readonly picked = model.required<ReadonlySet<string>>();
  /** Whether the sheet of the site is open. */
  readonly siteOpen = input(false);
  /** The sheet of the site is asked for. */
  readonly site = output<void>();
  /** Whether links are shown as they are now, or as the draft has them. */
  protected readonly live = signal(false);
  protected readonly names = computed(
    () => new Map((this.store.data()?.roster ?? []).map(({ id, name }) => [id, name])),
  );
  private readonly byMac = computed(() => new Map(this.store.devices().map(({ mac, id }) => [mac, id])));
  private readonly tree = computed(() => {
    const data = this.store.data();
    return data ? meshTree(data.site, data.roster, data.links, this.air.losses()) : null;
  });
  readonly rows = computed(() => {
    const [data, tree] = [this.store.data(), this.tree()];
    return data && tree ? meshRows(data.site, data.roster, data.links, this.store.devices(), tree) : [];
  });
  protected readonly hangs = computed((): DrawnHang[] => {
    if (this.live())
      return this.rows().flatMap(({ key, now }): DrawnHang[] => {
        const parentId = now && this.byMac().get(now.parent);
        if (!now || !parentId) return [];
        const { band, signal } = now;
        return [{ id: key, parentId, band, signal, way: null, lost: null, standby: false }];
      });
    return this.rows().flatMap(({ hang, standby }): DrawnHang[] => [
      ...(hang ? [drawn(hang, false)] : []),
      ...(standby ? [drawn(standby, true)] : []),
    ]);
  });
  protected readonly legend = computed(() => {
    if (this.live()) return 'As APs report it. Strong frame: on a cable.';
    const dashed = this.hangs().some(({ standby }) => standby) ? ' Dashed: only when its cable fails.' : '';
    return `Signal as measured, speed as predicted: what all behind share; − what its hop loses to those before it.${dashed}`;
  });
  protected readonly noneWords = computed(() => {
    if (this.live()) return 'No AP hangs by radio now.';
    const asked = this.rows().filter(({ setting }) => setting.when !== 'never').length;
    if (asked > 0)
      return 'Nobody knows yet who would take them: what APs lose between each other is not measured. Scan under Air.';
    return 'Every AP hangs on its cable. Choose one below, and say when it is to hang on another by radio instead.';
  });
  protected readonly siteWords = computed(() => {
    const { when, band, hops } = this.store.site()?.mesh ?? USUAL_MESH;
    return `by radio ${WHEN[when]}, at ${band} GHz, ${counted(hops, 'hop')} at most`;
  });
  protected readonly only = computed(() => (this.picked().size === 1 ? [...this.picked()][0]! : null));
  protected readonly columns = computed((): readonly TableColumn<MeshRow>[] => {
    const names = this.names();
    const nameOf = (id: string): string => names.get(id) ?? '?';
    return [
      { key: 'ap', title: 'AP', text: ({ device }) => device.name, width: 84, mono: true, phone: true },
      {
        key: 'when',
        title: 'By radio',
        text: ({ setting }) => WHEN[setting.when],
        width: 130,
        groups: true,
        phone: true,
      },
      {
        key: 'on',
        title: 'Hangs on',
        text: ({ hang, loose, cabled }) =>
          hang ? nameOf(hang.parentId) : loose ? 'nobody' : cabled ? 'its cable' : 'no cable seen',
        width: 92,
        groups: true,
        phone: true,
        tone: ({ loose }) => (loose ? 'bad' : ''),
      },
      {
        key: 'signal',
        title: 'dBm',
        text: ({ hang }) => `${hang?.signal ?? ''}`,
        order: ({ hang }) => hang?.signal ?? -200,
        width: 52,
      },
      {
        key: 'hops',
        title: 'Hops',
        text: ({ hang }) => `${hang?.hops ?? ''}`,
        order: ({ hang }) => hang?.hops ?? 0,
        width: 50,
      },
      {
        key: 'way',
        title: 'Mb/s',
        text: ({ hang }) => (hang?.way ? `${Math.round(hang.way)}` : ''),
        order: ({ hang }) => hang?.way ?? Infinity,
        width: 50,
      },
      {
        key: 'standby',
        title: 'When its cable fails',
        text: ({ standby, setting, cabled }) =>
          standby
            ? `${nameOf(standby.parentId)}, ${standby.signal} dBm`
            : setting.when === 'fallback' && cabled
              ? 'nobody'
              : '',
        width: 140,
        tone: ({ standby }) => (standby ? '' : 'caution'),
      },
      {
        key: 'now',
        title: 'Now',
        text: ({ now, cabled }) => (now ? this.nowWords(now) : cabled ? 'on its cable' : ''),
        width: 200,
      },
      {
        key: 'said',
        title: 'Said of it alone',
        text: (row) => ownWords(row),
        width: 110,
        groups: true,
      },
    ];
  });
  protected readonly key = ({ key }: MeshRow): string => key;
  protected readonly name = ({ device }: MeshRow): string => device.name;
  protected readonly one = (key: string): ReadonlySet<string> => new Set([key]);

  private nowWords({ parent, signal, channel }: NonNullable<MeshRow['now']>): string {
    const id = this.byMac().get(parent);
    const name = id === undefined ? parent : (this.names().get(id) ?? parent);
    return `${name}, ${signal} dBm, channel ${channel}`;
  }
}

const drawn = (hang: Hang, standby: boolean): DrawnHang => ({
  id: hang.deviceId,
  parentId: hang.parentId,
  band: hang.band,
  signal: hang.signal,
  way: hang.way,
  lost: lostOf(hang),
  standby,
});
