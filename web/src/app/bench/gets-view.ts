import { HttpClient } from '@angular/common/http';
import { Component, computed, effect, inject, input, model, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import type { GetsAnswer, GetsRequest, GetsRow } from '@iron-lattice/core/bench';
import { firstValueFrom } from 'rxjs';
import { liveFetch } from '../shell/live-fetch';
import { SiteStore } from '../shell/site-store';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import type { TableColumn } from '../ui/data-rows';
import { DataTable } from '../ui/data-table';
import { TextCell } from '../ui/text-cell';
import { keyOfPlace, placeWords, ratesWords, reachInShort } from './gets-words';

/** What of a question somebody pressed for. */
export type GetsAsked = Omit<GetsRequest, 'siteId'>;

/** What a person or a device would get at every SSID and port of the site, by the draft. */
@Component({
  selector: 'il-gets-view',
  imports: [FormsModule, MatButtonModule, ChoiceCell, DataTable, TextCell],
  template: `
    <form class="cells" aria-label="Who is asked about" (ngSubmit)="look()">
      <il-text-cell
        label="Who"
        for="gets-who"
        size="wide"
        [mono]="true"
        [most]="253"
        example="marn.ellis, or 0e:c4:60:00:00:03"
        hint="A user name, or a MAC address"
        [value]="who()"
        (typed)="who.set($event)"
      />
      @if (others()) {
        <il-choice-cell
          label="Other servers name the class"
          for="gets-assumed"
          hint="What they really say is found out by trying it"
          [options]="classes()"
          [value]="assumed()"
          (chosen)="assumed.set($event)"
        />
      }
      <div class="cell go">
        <button mat-flat-button type="submit" [disabled]="who().trim() === ''">What would they get?</button>
      </div>
    </form>
    @if (live.problem(); as problem) {
      <p class="calm flaw" role="alert">{{ problem.message }}</p>
    } @else if (asked()) {
      @if (answer(); as answer) {
        <p class="calm soft" role="status">{{ knownWords(answer) }}</p>
        <il-data-table
          label="What they would get"
          remember="gets"
          [rows]="answer.rows"
          [columns]="columns"
          [key]="key"
          [name]="name"
          [shown]="chosen()"
          (opened)="chosen.set(key($event))"
        >
          <span empty>This site has no SSID, and no port of it asks who somebody is.</span>
        </il-data-table>
      } @else {
        <p class="calm soft" role="status">Working it out…</p>
      }
    } @else {
      <p class="calm soft">
        For one person or device: at each SSID and port here, how they are asked, which server decides, and what class,
        segment, addresses, reach and rates follow from the draft. Open a row to see why, and to really try it.
      </p>
    }
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      height: 100%;
    }
    .cells {
      flex: none;
      border-top: 1px solid var(--rule);
      background: var(--sheet);
    }
    .go {
      padding-top: 25px;
    }
    .calm {
      padding: 10px 14px;
      margin: 0;
      max-width: 100ch;
      flex: none;
    }
    il-data-table {
      flex: 1;
      min-height: 0;
    }
  `,
})
export class GetsView {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  /** Who is asked about at first, from the address of the page. */
  readonly first = input<string>();
  /** What was asked last. */
  readonly asked = model<GetsAsked | null>(null);
  /** Key of the row that is open. */
  readonly chosen = model<string | null>(null);
  /** The row that is open. */
  readonly row = model<GetsRow | null>(null);
  protected readonly who = signal('');
  protected readonly assumed = signal<string | null>(null);
  protected readonly others = computed(() => this.store.radiusServers().some(({ own }) => !own));
  protected readonly classes = computed((): readonly Choice[] => [
    { value: null, label: 'none' },
    ...this.store.accessClasses().map(({ id, name }) => ({ value: id, label: name })),
  ]);
  protected readonly live = liveFetch({
    of: () => {
      const [draft, siteId, asked] = [this.store.draft(), this.store.siteId(), this.asked()];
      return draft && siteId && asked
        ? { url: `/api/drafts/${draft.id}/gets`, request: { siteId, ...asked }, of: [draft.head, draft.edits] }
        : undefined;
    },
    fetch: ({ url, request }) => firstValueFrom(this.http.post<GetsAnswer>(url, request)),
    when: ({ type }) => type === 'site',
    stays: true,
  });
  protected readonly answer = computed(() => this.live.value() ?? null);
  protected readonly columns: readonly TableColumn<GetsRow>[] = [
    { key: 'place', title: 'Where', text: placeWords, width: 160, phone: true },
    { key: 'how', title: 'Asked', text: ({ how }) => how, width: 170, groups: true },
    {
      ...{ key: 'server', title: 'Decided by', width: 110, groups: true },
      text: ({ server, assumed }) => (server === null ? '' : `${server}${assumed ? ' (taken so)' : ''}`),
    },
    {
      key: 'class',
      title: 'Class',
      text: ({ accessClass }) => accessClass?.name ?? '',
      width: 90,
      groups: true,
      phone: true,
    },
    {
      ...{ key: 'segment', title: 'Segment', width: 120, groups: true, phone: true },
      text: ({ segment, stops }) => (stops === null && segment ? `${segment.name} ${segment.vlan}` : 'not let in'),
      tone: ({ stops }) => (stops === null ? '' : 'caution'),
    },
    {
      ...{ key: 'range', title: 'Addresses', width: 140, mono: true, hidden: true },
      text: ({ segment }) => segment?.range ?? '',
    },
    { key: 'reach', title: 'Reaches', text: ({ reach }) => reachInShort(reach), width: 190 },
    {
      ...{ key: 'rates', title: 'Mb/s down / up', width: 100, groups: true },
      text: (row) => (row.stops === null ? ratesWords(row) : ''),
      order: ({ down }) => down.kbps ?? Infinity,
    },
    { key: 'stops', title: 'Why not', text: ({ stops }) => stops ?? '', width: 200, hidden: true },
  ];
  protected readonly key = keyOfPlace;
  protected readonly name = placeWords;

  constructor() {
    effect(() => {
      const first = this.first();
      if (first === undefined) return;
      this.who.set(first);
      this.asked.set({ who: first, assumedId: null });
    });
    effect(() => this.row.set(this.answer()?.rows.find((row) => keyOfPlace(row) === this.chosen()) ?? null));
  }

  protected look(): void {
    const who = this.who().trim();
    if (who !== '') this.asked.set({ who, assumedId: this.others() ? this.assumed() : null });
  }

  protected knownWords({ whom }: GetsAnswer): string {
    const who = whom.user ?? whom.mac ?? '';
    if (whom.barred) return `${who} is kept by this controller, and turned away: ${whom.barred}.`;
    if (whom.groups === null)
      return this.others()
        ? `${who} is nobody that this controller keeps: what other servers say is taken as chosen above.`
        : `${who} is nobody that this controller keeps.`;
    return whom.groups.length === 0
      ? `${who} is kept by this controller, in no group.`
      : `${who} is kept by this controller, in ${whom.groups.join(', ')}.`;
  }
}
