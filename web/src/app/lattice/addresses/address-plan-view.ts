import { HttpClient } from '@angular/common/http';
import { Component, computed, effect, inject, output, signal, untracked } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import {
  classOf,
  contains,
  formatPrefix,
  parsePrefix,
  type AddressClass,
  type Prefix,
} from '@iron-lattice/core/address';
import { cellAt, findOverlaps, outOf, shareTaken, type PlanEntry } from '@iron-lattice/core/lattice';
import { firstValueFrom } from 'rxjs';
import { problemOf } from '../../session/problem';
import { SiteStore } from '../../shell/site-store';
import type { TableColumn } from '../../ui/data-rows';
import { DataTable } from '../../ui/data-table';
import { AddressSquare, type SquareCell } from './address-square';
import { LatticeFacts } from '../facts/lattice-facts';
import { anewFor } from '../../ui/anew-for';

/** What address space is for, in words. */
const CLASSES: Readonly<Partial<Record<AddressClass, string>>> = {
  private: 'private (RFC 1918)',
  shared: 'shared by a provider (RFC 6598)',
  documentation: 'documentation (RFC 5737, 3849)',
  ula: 'private IPv6 (RFC 4193)',
  global: 'public',
};
const ROOTS = ['10.0.0.0/8', '172.16.0.0/12', '192.168.0.0/16'].map((text) => parsePrefix(text)!);

/** The estate's address space, drawn eight bits at a time: who holds what, how full, what is free. */
@Component({
  selector: 'il-address-plan-view',
  imports: [FormsModule, MatButtonModule, AddressSquare, DataTable],
  template: `
    <div class="bar">
      <nav aria-label="Where in the address space">
        @for (step of path(); track $index) {
          <button type="button" class="mono step" (click)="parent.set(step)" [attr.aria-current]="$last">
            {{ text(step) }}
          </button>
          @if (!$last) {
            <span class="soft" aria-hidden="true">▸</span>
          }
        }
      </nav>
      <span class="soft">{{ kind() }}, {{ percent() }} taken</span>
      <span class="grow"></span>
      <div class="choices spaces" role="group" aria-label="Address space">
        @for (root of roots(); track text(root)) {
          <button type="button" class="mono" [attr.aria-pressed]="within(root)" (click)="parent.set(root)">
            {{ text(root) }}
          </button>
        }
      </div>
    </div>
    <div class="body">
      <div class="left">
        <il-address-square [(parent)]="parent" [(at)]="at" [root]="path()[0]!" [entries]="entries()" />
        <p class="said" role="status">{{ said() }}</p>
        <form class="free" (submit)="findFree($event)">
          <label for="free-length">Next free prefix of</label>
          <span class="mono">/</span
          ><input id="free-length" class="mono" name="length" size="3" [(ngModel)]="length" autocomplete="off" />
          <span class="soft">in {{ text(parent()) }}</span>
          <button mat-stroked-button type="submit">Find</button>
          <b class="mono" role="status">{{ free() }}</b>
        </form>
        @if (overlapWords().length > 0) {
          <ul class="bad" aria-label="Overlaps">
            @for (words of overlapWords(); track $index) {
              <li>{{ words }}</li>
            }
          </ul>
        } @else {
          <p class="soft"><span class="good">✓</span> No prefix of the estate overlaps another.</p>
        }
      </div>
      <il-data-table
        label="Segments in this space"
        remember="address-plan"
        [rows]="rows()"
        [columns]="columns"
        [key]="rowKey"
        [name]="rowName"
        [shown]="null"
        (opened)="segment.emit($event)"
      >
        <span empty>Nobody holds anything here: all of {{ text(parent()) }} is free.</span>
      </il-data-table>
    </div>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      height: 100%;
    }
    .bar {
      display: flex;
      align-items: center;
      flex-wrap: wrap;
      gap: 8px;
      padding: 0 14px 8px;
      flex: none;
    }
    nav {
      display: flex;
      align-items: center;
      gap: 4px;
    }
    .spaces {
      flex-wrap: wrap;
    }
    .step {
      all: unset;
      cursor: pointer;
      text-decoration: underline;
    }
    .step[aria-current='true'] {
      text-decoration: none;
      font-weight: 600;
    }
    .step:focus-visible {
      outline: 2px solid var(--iron);
      outline-offset: 2px;
    }
    .body {
      display: flex;
      flex: 1;
      min-height: 0;
      gap: 10px;
    }
    .left {
      flex: none;
      width: 392px;
      max-width: 100%;
      box-sizing: border-box;
      padding-inline: 14px 2px;
      overflow: auto;
    }
    il-data-table {
      flex: 1;
      min-width: 0;
    }
    .said {
      min-height: 36px;
      margin: 6px 0;
    }
    .free {
      display: flex;
      align-items: center;
      flex-wrap: wrap;
      gap: 6px;
      margin-bottom: 8px;
    }
    .free input {
      width: 36px;
      height: 24px;
      border: 1px solid var(--strong);
      background: var(--ground);
      color: inherit;
      margin-left: -5px;
    }
    ul {
      margin: 0;
      padding-left: 16px;
    }
    @media (max-width: 720px) {
      .body {
        flex-direction: column;
        overflow: auto;
      }
      .left {
        width: 100%;
        padding-right: 14px;
      }
      il-data-table {
        min-height: 300px;
      }
    }
  `,
})
export class AddressPlanView {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  private readonly facts = inject(LatticeFacts);
  /** A segment was chosen, here or at another site. */
  readonly segment = output<PlanEntry>();

  protected readonly text = formatPrefix;
  protected length = '24';
  protected readonly parent = signal<Prefix>(ROOTS[0]!);
  /** What was found free in the prefix that is looked at. */
  protected readonly free = anewFor(
    () => formatPrefix(this.parent()),
    () => '',
  );
  /** The cell that is pointed at. */
  protected readonly at = signal<SquareCell | null>(null);

  protected readonly entries = computed(() => this.facts.plan()?.entries ?? []);
  private readonly prefixes = computed(() => this.entries().map((entry) => parsePrefix(entry.prefix)!));
  /** Where address space is taken from, and what else is in use. */
  protected readonly roots = computed((): Prefix[] => {
    const others = this.prefixes().filter((prefix) => !ROOTS.some((root) => contains(root, prefix)));
    const tops = others.map((prefix) =>
      outOf({ ...prefix, length: Math.max(8, prefix.length - (prefix.version === 4 ? 8 : 16)) }, 8),
    );
    return [
      ...ROOTS,
      ...tops.filter((top, i) => tops.findIndex((each) => formatPrefix(each) === formatPrefix(top)) === i),
    ];
  });
  protected readonly path = computed((): Prefix[] => {
    const steps: Prefix[] = [];
    const root = this.roots().find((each) => contains(each, this.parent())) ?? this.parent();
    for (let step = this.parent(); step.length > root.length; step = outOf(step, root.length)) steps.unshift(step);
    return [root, ...steps];
  });
  protected readonly rows = computed(() => {
    const parent = this.parent();
    return this.entries().filter((_, i) => {
      const own = this.prefixes()[i]!;
      return contains(parent, own) || contains(own, parent);
    });
  });
  protected readonly kind = computed(() => {
    const { version, network } = this.parent();
    const name = classOf({ version, value: network });
    return CLASSES[name] ?? name.replace('_', ' ');
  });
  protected readonly percent = computed(() => {
    const share = shareTaken(this.parent(), this.prefixes());
    return share > 0 && share < 0.001 ? 'under 0.1%' : `${(share * 100).toFixed(share < 0.1 ? 1 : 0)}%`;
  });
  protected readonly overlapWords = computed(() => {
    const entries = this.entries();
    return findOverlaps(this.prefixes()).map(({ outer, inner }) => {
      const say = ({ prefix, name, siteName }: PlanEntry): string => `${prefix} of ${name} at ${siteName}`;
      return `${say(entries[inner]!)} lies in ${say(entries[outer]!)}.`;
    });
  });
  protected readonly said = computed(() => {
    const cell = this.at();
    if (!cell) return 'Press a block to go into it, or turn the wheel over it.';
    const prefix = cellAt(this.parent(), cell.column, cell.row);
    const held = this.rows().filter((entry) => {
      const own = parsePrefix(entry.prefix)!;
      return contains(prefix, own) || contains(own, prefix);
    });
    if (held.length === 0) return `${formatPrefix(prefix)}: free`;
    const some = held.slice(0, 4).map(({ name, siteName, used, capacity }) => {
      const share = used !== null && capacity ? `, ${Math.round((100 * used) / capacity)}% used` : '';
      return `${name} at ${siteName}${share}`;
    });
    return `${formatPrefix(prefix)}: ${some.join('; ')}${held.length > 4 ? ` and ${held.length - 4} more` : ''}`;
  });
  protected readonly columns: readonly TableColumn<PlanEntry>[] = [
    { key: 'site', title: 'Site', text: ({ siteName }) => siteName, width: 92, groups: true, phone: true },
    { key: 'name', title: 'Segment', text: ({ name }) => name, width: 92, groups: true, phone: true },
    { key: 'vlan', title: 'VLAN', text: ({ vlan }) => String(vlan), width: 46, mono: true },
    { key: 'prefix', title: 'Prefix', text: ({ prefix }) => prefix, width: 112, mono: true, phone: true },
    {
      key: 'class',
      title: 'Kind',
      text: (entry) => (CLASSES[entry.class] ?? entry.class).split(' (')[0]!,
      width: 70,
      groups: true,
      hidden: true,
    },
    {
      key: 'used',
      title: 'Used',
      text: ({ used, capacity }) =>
        used === null || !capacity ? '' : `${used} of ${capacity} · ${Math.round((100 * used) / capacity)}%`,
      order: ({ used, capacity }) => (used === null || !capacity ? -1 : used / capacity),
      width: 104,
      tone: ({ used, capacity }) => (used !== null && capacity && used / capacity > 0.85 ? 'caution' : ''),
    },
  ];

  constructor() {
    effect(() => {
      const draft = this.store.draft();
      if (draft && draft.head >= 0) void untracked(() => this.facts.loadPlan());
    });
    // Where this site is, once it is known.
    let placed = false;
    effect(() => {
      const entry = this.entries().find((each) => each.siteId === this.store.siteId());
      if (placed || !entry) return;
      placed = true;
      const own = parsePrefix(entry.prefix)!;
      this.parent.set(outOf(own, 8).length < 8 ? own : outOf({ ...own, length: Math.min(own.length, 24) }, 8));
    });
  }

  protected within = (root: Prefix): boolean => contains(root, this.parent());
  protected readonly rowKey = (row: PlanEntry): string => `${row.segmentId} ${row.prefix}`;
  protected readonly rowName = (row: PlanEntry): string => `${row.name} at ${row.siteName}`;

  protected async findFree(event: Event): Promise<void> {
    event.preventDefault();
    const draft = this.store.draft();
    if (!draft) return;
    const params = { parent: formatPrefix(this.parent()), length: this.length.replace('/', '').trim() };
    const url = `/api/drafts/${draft.id}/next-free-prefix`;
    try {
      const { prefix } = await firstValueFrom(this.http.get<{ prefix: string }>(url, { params }));
      this.free.set(prefix);
    } catch (error) {
      this.free.set(problemOf(error).message);
    }
  }
}
