import { Component, computed, inject, model, signal } from '@angular/core';
import { sheetFor } from '@iron-lattice/core/hardware';
import { SiteStore } from '../../shell/site-store';
import type { TableColumn } from '../../ui/data-rows';
import { DataTable } from '../../ui/data-table';
import { SessionStore } from '../../session/session-store';
import { portRows, type PortRow } from './port-rows';

/** A front panel: two rows of sockets, uplinks apart. */
interface Panel {
  readonly id: string;
  readonly name: string;
  readonly draw: string;
  readonly ports: readonly { readonly row: PortRow; readonly x: number; readonly y: number }[];
  readonly width: number;
}
const [SIZE, GAP] = [22, 3];

/** Ports of a site: drawn front panels to drag over, and all of them in a table. */
@Component({
  selector: 'il-ports-view',
  imports: [DataTable],
  template: `
    <div class="view">
      <div
        class="panels"
        role="group"
        aria-label="Front panels"
        (pointerup)="grab.set(null)"
        (pointerleave)="grab.set(null)"
      >
        @for (panel of panels(); track panel.id) {
          <figure>
            <figcaption>
              <b class="mono">{{ panel.name }}</b> <span class="soft">{{ panel.draw }}</span>
            </figcaption>
            <svg [attr.width]="panel.width" height="56" [attr.aria-label]="'Front of ' + panel.name">
              @for (socket of panel.ports; track socket.row.key) {
                <g
                  class="socket"
                  role="checkbox"
                  tabindex="0"
                  [class.picked]="picked().has(socket.row.key)"
                  [class.up]="socket.row.up"
                  [class.locked]="socket.row.locked"
                  [attr.aria-checked]="picked().has(socket.row.key)"
                  [attr.aria-label]="words(socket.row)"
                  [attr.transform]="'translate(' + socket.x + ' ' + socket.y + ')'"
                  (pointerdown)="begin(socket.row, $event)"
                  (pointerenter)="over(socket.row)"
                  (keydown.enter)="toggle(socket.row)"
                  (keydown.space)="toggle(socket.row); $event.preventDefault()"
                >
                  <title>{{ words(socket.row) }}</title>
                  <rect width="22" height="22" [style.fill]="fill(socket.row)" />
                  @if (socket.row.setting.tagged.length > 0) {
                    <path d="M2 19h18" class="tags" />
                  }
                  @if (socket.row.watts) {
                    <path d="M15 1h6v6z" class="power" />
                  }
                  <text x="11" y="15" text-anchor="middle" [class.inverse]="socket.row.setting.untagged">
                    {{ socket.row.port }}
                  </text>
                </g>
              }
            </svg>
          </figure>
        } @empty {
          <p class="soft">No switch or gateway here yet. Claim one under Intake.</p>
        }
      </div>
      <il-data-table
        label="Ports"
        remember="site-ports"
        groupFirst="device"
        [rows]="rows()"
        [columns]="columns"
        [key]="key"
        [name]="name"
        [pickable]="session.mayChange()"
        [picked]="picked()"
        (pickedChange)="picked.set($event)"
        [shown]="only()"
        (opened)="picked.set(one($event.key))"
      >
        <span empty>No ports.</span>
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
    .panels {
      display: flex;
      flex-wrap: wrap;
      gap: 6px 22px;
      padding: 2px 14px 8px;
      max-height: 190px;
      overflow: auto;
      flex: none;
      border-bottom: 1px solid var(--rule);
      user-select: none;
    }
    il-data-table {
      flex: 1;
      min-height: 0;
    }
    figure {
      margin: 0;
    }
    figcaption {
      display: flex;
      gap: 10px;
      line-height: 18px;
    }
    .socket {
      cursor: pointer;
      outline: none;
    }
    .socket rect {
      fill: var(--ground);
      stroke: var(--strong);
    }
    .socket.up rect {
      stroke: var(--ink);
      stroke-width: 1.6;
    }
    .socket text {
      font:
        500 10px 'JetBrains Mono',
        monospace;
      fill: var(--soft);
      pointer-events: none;
    }
    .socket text.inverse {
      fill: var(--ground);
    }
    .tags {
      stroke: var(--ground);
      stroke-width: 2;
      stroke-dasharray: 3 2;
    }
    .power {
      fill: var(--ground);
    }
    .socket.picked rect {
      stroke: var(--iron);
      stroke-width: 3;
    }
    .socket:focus-visible rect {
      stroke: var(--iron);
      stroke-dasharray: 3 2;
      stroke-width: 2;
    }
    .socket.locked {
      opacity: 0.5;
    }
  `,
})
export class PortsView {
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  /** Chosen ports, `device port`. */
  readonly picked = model.required<ReadonlySet<string>>();
  /** Whether a drag over sockets takes them in or leaves them out. */
  protected readonly grab = signal<boolean | null>(null);
  protected readonly rows = computed(() => {
    const data = this.store.data();
    return data ? portRows(data.site, data.roster, this.store.devices()) : [];
  });
  protected readonly only = computed(() => (this.picked().size === 1 ? [...this.picked()][0]! : null));
  protected readonly panels = computed((): Panel[] => {
    const byDevice = new Map<string, PortRow[]>();
    for (const row of this.rows()) byDevice.set(row.device.id, [...(byDevice.get(row.device.id) ?? []), row]);
    return [...byDevice.values()].map((rows) => {
      const { device } = rows[0]!;
      const sheet = sheetFor(device);
      const edges = sheet.ports.filter((port) => port.role === 'edge').length;
      let [edge, extra] = [0, 0];
      const ports = rows.map((row) => {
        const isEdge = sheet.ports.find((port) => port.name === row.port)?.role === 'edge';
        // Odd numbers above, even ones below; uplinks a little apart.
        const place = isEdge ? edge++ : 2 * Math.ceil(edges / 2) + extra++;
        const x = Math.floor(place / 2) * (SIZE + GAP) + (isEdge || edges === 0 ? 0 : 14) + 2;
        return { row, x, y: (place % 2) * (SIZE + GAP) + 3 };
      });
      const watts = rows.reduce((sum, row) => sum + (row.watts ?? 0), 0);
      const draw = sheet.poeBudget ? `${watts.toFixed(1)} of ${sheet.poeBudget} W` : '';
      return { id: device.id, name: device.name, draw, ports, width: Math.max(...ports.map(({ x }) => x)) + SIZE + 4 };
    });
  });
  protected readonly columns: readonly TableColumn<PortRow>[] = [
    {
      key: 'device',
      title: 'Device',
      text: ({ device }) => device.name,
      width: 90,
      mono: true,
      groups: true,
      phone: true,
    },
    { key: 'port', title: 'Port', text: ({ port }) => port, width: 50, mono: true, phone: true },
    { key: 'duty', title: 'Duty', text: ({ duty }) => duty, width: 110, groups: true, phone: true },
    { key: 'untagged', title: 'Untagged', text: ({ untagged }) => untagged, width: 110, groups: true },
    { key: 'tagged', title: 'Tagged', text: ({ tagged }) => tagged, width: 190 },
    {
      key: 'exceptions',
      title: 'Differs in',
      text: ({ exceptions, duty }) => (duty ? exceptions.join(', ') : ''),
      width: 100,
      tone: ({ exceptions, duty }) => (duty && exceptions.length > 0 ? 'caution' : ''),
    },
    { key: 'peer', title: 'Plugged in', text: ({ peer }) => peer, width: 96, mono: true },
    {
      key: 'link',
      title: 'Link',
      text: ({ up, speed }) => (up === null ? '' : up ? `${speed ?? ''} Mb/s` : 'down'),
      order: ({ up, speed }) => (up ? (speed ?? 0) : -1),
      width: 86,
      tone: ({ up }) => (up === false ? 'soft' : ''),
    },
    {
      key: 'power',
      title: 'Power',
      text: ({ watts, mostWatts, setting }) =>
        watts !== null ? `${watts.toFixed(1)} W` : mostWatts === null ? '' : setting.poe === 'off' ? 'off' : '–',
      order: ({ watts }) => watts ?? -1,
      width: 66,
    },
  ];

  protected readonly key = (row: PortRow): string => row.key;
  protected readonly name = (row: PortRow): string => `${row.device.name} port ${row.port}`;
  protected readonly one = (key: string): ReadonlySet<string> => new Set([key]);

  protected fill({ setting }: PortRow): string {
    const mark = setting.untagged === null ? undefined : this.store.marks().get(setting.untagged);
    return mark ? `var(--seg-${mark.colour})` : '';
  }

  protected words(row: PortRow): string {
    const parts = [
      `${row.device.name} port ${row.port}`,
      row.duty || (row.untagged ? `${row.untagged} untagged` : 'nothing untagged'),
      ...(row.tagged ? [`${row.tagged} tagged`] : []),
      ...(row.peer ? [row.peer] : []),
      ...(row.up === null ? [] : [row.up ? `${row.speed} Mb/s` : 'no link']),
      ...(row.watts ? [`${row.watts.toFixed(1)} W`] : []),
    ];
    return parts.join(', ');
  }

  protected begin(row: PortRow, event: PointerEvent): void {
    (event.target as Element).releasePointerCapture?.(event.pointerId); // a touch would keep the others from being entered
    const taking = !this.picked().has(row.key);
    this.grab.set(taking);
    this.set(row, taking);
  }

  protected over(row: PortRow): void {
    const taking = this.grab();
    if (taking !== null) this.set(row, taking);
  }

  protected toggle(row: PortRow): void {
    this.set(row, !this.picked().has(row.key));
  }

  private set(row: PortRow, taking: boolean): void {
    if (row.locked) return;
    const next = new Set(this.picked());
    if (taking) next.add(row.key);
    else next.delete(row.key);
    this.picked.set(next);
  }
}
