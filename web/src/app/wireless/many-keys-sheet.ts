import { HttpClient } from '@angular/common/http';
import { Component, computed, effect, inject, output, signal, untracked } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { bitsOfKey } from '@iron-lattice/core/base';
import type { RingSegmentRow, RingSegments } from '@iron-lattice/core/lattice';
import { MOST_KEYS, type NewRingKey } from '@iron-lattice/core/wireless';
import { firstValueFrom } from 'rxjs';
import { attempt, type Problem } from '../session/problem';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { counted } from '../ui/counted';
import type { TableColumn } from '../ui/data-rows';
import { DataTable } from '../ui/data-table';
import { Sheet } from '../ui/sheet';
import { heightInCell } from '../ui/table-view';
import { TextCell } from '../ui/text-cell';
import { drawAll, flawsOf, NEW_KEYS, planned, type ManyText } from './many-keys';
import { RingStore } from './ring-store';

/** How long what is typed rests before it is worked out, in milliseconds. */
const REST_MS = 250;

interface Row {
  readonly name: string;
  readonly key: string;
  readonly leads: string;
  readonly seen: RingSegmentRow | undefined;
}

/** Many keys at once, and the segments that they lead to: all that it brings is shown before anything is made. */
@Component({
  selector: 'il-many-keys-sheet',
  imports: [FormsModule, MatButtonModule, Cell, ChoiceCell, DataTable, Sheet, TextCell],
  template: `
    <il-sheet [focusFirst]="true" heading="Many keys" [note]="note()" (closed)="closed.emit()">
      <button actions mat-flat-button [disabled]="busy() || !ready()" (click)="make()">{{ label() }}</button>
      <div class="cells">
        <il-text-cell
          label="How many"
          for="many-count"
          [flaw]="flaws().count"
          [value]="text().count"
          (typed)="put({ count: $event })"
        />
        <il-text-cell
          label="Each is for"
          for="many-pattern"
          hint="{n}, or {nnn} for leading zeros"
          [flaw]="flaws().pattern"
          [value]="text().pattern"
          (typed)="put({ pattern: $event })"
        />
        <il-text-cell
          label="From number"
          for="many-first"
          [flaw]="flaws().first"
          [value]="text().first"
          (typed)="put({ first: $event })"
        />
        <il-text-cell
          label="Characters"
          for="many-length"
          [hint]="strength()"
          [flaw]="flaws().length"
          [value]="text().length"
          (typed)="put({ length: $event })"
        />
        <il-choice-cell
          label="Made of"
          for="many-alphabet"
          [options]="alphabets"
          [value]="text().alphabet"
          (chosen)="put({ alphabet: $event })"
        />
        <il-text-cell
          label="Devices of each"
          for="many-most"
          hint="Empty: any number"
          [flaw]="flaws().most"
          [value]="text().most"
          (typed)="put({ most: $event })"
        />
        <il-text-cell
          label="Right until"
          for="many-until"
          hint="2026-12-31; empty: until taken back"
          [mono]="true"
          [flaw]="flaws().until"
          [value]="text().until"
          (typed)="put({ until: $event })"
        />
        <il-choice-cell
          label="They lead to"
          for="many-leads"
          size="wide"
          [options]="leads()"
          [value]="text().leads"
          [hint]="shared.atEstate() ? 'Segments are made at a site: open one to lead each key to its own.' : ''"
          (chosen)="put({ leads: $event })"
        />
        @switch (text().leads) {
          @case ('class') {
            <il-choice-cell
              label="Class of all"
              for="many-class"
              hint="It says segment, rules and limits, at each site by its own"
              [flaw]="flaws().accessClass"
              [options]="classes()"
              [value]="text().accessClass"
              (chosen)="put({ accessClass: $event })"
            />
          }
          @case ('one') {
            <il-choice-cell
              label="Segment of all"
              for="many-one"
              [options]="segments()"
              [value]="text().one"
              (chosen)="put({ one: $event })"
            />
          }
          @case ('each') {
            <il-text-cell
              label="Segment of each"
              for="many-segments"
              [flaw]="flaws().segments"
              [value]="text().segments"
              (typed)="put({ segments: $event })"
            />
            <il-text-cell
              label="VLAN ID: number and"
              for="many-vlan"
              [hint]="vlanHint()"
              [flaw]="flaws().vlan"
              [value]="text().vlan"
              (typed)="put({ vlan: $event })"
            />
          }
          @case ('list') {
            <il-text-cell
              label="Segments, one a line"
              for="many-list"
              size="wide"
              hint="A name; one that is new with its VLAN ID behind a comma: Berth 7, 107"
              [rows]="4"
              [mono]="true"
              [flaw]="flaws().list"
              [value]="text().list"
              (typed)="put({ list: $event })"
            />
          }
        }
        @if (text().leads === 'each' || text().leads === 'list') {
          <il-choice-cell
            label="New segments by"
            for="many-recipe"
            [options]="recipes()"
            [value]="text().recipeId"
            hint="Subnets from the address plan"
            (chosen)="put({ recipeId: $event })"
          />
          @if (text().recipeId === null) {
            <il-text-cell
              label="Bits of each subnet"
              for="many-bits"
              [hint]="hosts()"
              [flaw]="flaws().bits"
              [value]="text().bits"
              (typed)="put({ bits: $event })"
            />
          }
        }
        @if (segmentsAsked() && seen(); as told) {
          <il-cell label="What comes with them" size="wide">
            <ul class="value">
              <li>{{ addedWords() }}</li>
              @for (line of told.beside; track line) {
                <li>{{ line }}</li>
              }
            </ul>
          </il-cell>
        }
        @if (problem(); as refused) {
          <p class="cell full flaw" role="alert">{{ refused.message }}</p>
        }
        @if (taken().length > 0) {
          <p class="cell full flaw" role="alert">
            {{ taken()[0] }} has a key in this ring already{{
              taken().length > 1 ? ', as ' + (taken().length - 1) + ' more have' : ''
            }}: begin with another number, or take it back first.
          </p>
        }
        @if (rows().length > 0) {
          <il-cell label="What is made" size="full">
            <il-data-table
              label="Keys to be made"
              remember="many-keys"
              [style.height.px]="height()"
              [rows]="rows()"
              [columns]="columns"
              [key]="nameOf"
              [name]="nameOf"
            >
              <span empty>Nothing to make yet.</span>
            </il-data-table>
          </il-cell>
        }
      </div>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    ul {
      margin: 0;
      padding-left: 16px;
    }
    il-data-table {
      display: flex;
      margin: 0 -14px;
    }
  `,
})
export class ManyKeysSheet {
  private readonly http = inject(HttpClient);
  protected readonly store = inject(RingStore);
  private readonly site = inject(SiteStore);
  protected readonly shared = inject(SharedStore);
  readonly closed = output<void>();
  protected readonly alphabets: readonly Choice[] = [
    { value: 'clear', label: 'small letters and digits, none alike' },
    { value: 'wide', label: 'capitals too, none alike' },
    { value: 'digits', label: 'digits alone' },
  ];
  protected readonly text = signal<ManyText>(NEW_KEYS);
  protected readonly busy = signal(false);
  protected readonly problem = signal<Problem | null>(null);
  /** What the controller says of the segments, for what is typed; null: not known yet. */
  protected readonly seen = signal<RingSegments | null>(null);
  private asked = 0;

  protected readonly flaws = computed(() => flawsOf(this.text(), MOST_KEYS));
  private readonly whole = computed(() => Object.keys(this.flaws()).length === 0);
  private readonly plan = computed(() => (this.whole() ? planned(this.text()) : []));
  /** Drawn once for what is typed: what is shown is what is made. */
  private readonly keys = computed((): readonly NewRingKey[] => drawAll(this.plan(), this.text()));
  /** Segments that are asked about: each once. */
  protected readonly segmentsAsked = computed(() => {
    const wanted = this.plan().flatMap(({ wanted: each }) => each ?? []);
    const here = new Map((this.site.site()?.segments ?? []).map(({ name, vlan }) => [name.toLowerCase(), vlan]));
    const rows = new Map(
      wanted.map(({ name, vlan }) => [name.toLowerCase(), { name, vlan: vlan ?? here.get(name.toLowerCase()) ?? 0 }]),
    );
    return rows.size === 0 || this.shared.atEstate() ? null : [...rows.values()];
  });
  protected readonly taken = computed(() => {
    const there = new Set(
      this.store
        .keys()
        .filter(({ revokedAt }) => revokedAt === null)
        .map(({ name }) => name.toLowerCase()),
    );
    return this.plan()
      .map(({ name }) => name)
      .filter((name) => there.has(name.toLowerCase()));
  });
  private readonly added = computed(() => this.seen()?.rows.filter(({ does }) => does === 'add').length ?? 0);
  private readonly refused = computed(() => this.seen()?.rows.filter(({ does }) => does === 'refused').length ?? 0);
  protected readonly ready = computed(() => {
    if (!this.whole() || this.plan().length === 0 || this.taken().length > 0) return false;
    if (this.text().leads === 'one' && this.text().one === '') return false;
    return this.segmentsAsked() === null || (this.seen() !== null && this.refused() === 0);
  });
  protected readonly label = computed(() => {
    const keys = counted(this.plan().length, 'key');
    const added = this.added();
    return added === 0 ? `Make ${keys}` : `Make ${keys}, put ${counted(added, 'segment')} into the draft`;
  });
  protected readonly note = computed(
    () =>
      `Of ${this.store.ssid()?.name}. Keys act at once; segments, and what keeps them apart, go into the draft and are rolled out with it.`,
  );
  protected readonly addedWords = computed(() => {
    const there = (this.seen()?.rows.length ?? 0) - this.added() - this.refused();
    const parts = [`${counted(this.added(), 'segment')} made`, `${there} there already`];
    if (this.refused() > 0) parts.push(`${this.refused()} that cannot be made: see below`);
    return `${parts.join(', ')}.`;
  });
  protected readonly strength = computed(() => {
    const length = Number(this.text().length);
    if (!(length >= 8 && length <= 63)) return '8 to 63';
    const bits = bitsOfKey(length, this.text().alphabet);
    return `${bits} bits${bits < 50 ? ': whoever records a sign-in may guess it' : ''}`;
  });
  protected readonly vlanHint = computed(() => {
    const [vlan, first] = [Number(this.text().vlan), Number(this.text().first)];
    return Number.isInteger(vlan + first) ? `the first is VLAN ${vlan + first}` : '';
  });
  protected readonly hosts = computed(() => {
    const bits = Number(this.text().bits);
    return bits >= 16 && bits <= 29 ? `room for ${(2 ** (32 - bits) - 3).toLocaleString('en')} clients` : '16 to 29';
  });
  protected readonly leads = computed((): Choice[] => [
    { value: 'own', label: `${this.store.ssid()?.segment}, the SSID’s own segment` },
    ...(this.classes().length > 0 ? [{ value: 'class', label: 'an access class, all of them' }] : []),
    ...(this.shared.atEstate()
      ? []
      : [
          { value: 'one', label: 'another segment, all of them' },
          { value: 'each', label: 'each its own segment, by number' },
          { value: 'list', label: 'segments of a list, one each' },
        ]),
  ]);
  protected readonly classes = computed((): Choice[] =>
    this.store.classes().map((name) => ({ value: name, label: name })),
  );
  protected readonly segments = computed(() => this.shared.joinChoices(this.text().one, false));
  protected readonly recipes = computed((): Choice[] => [
    { value: null, label: 'what is said here' },
    ...(this.shared.estate()?.recipes ?? []).map(({ id, name, length }) => ({
      value: id,
      label: `recipe ${name}, /${length}`,
    })),
  ]);
  protected readonly rows = computed((): readonly Row[] => {
    const seen = new Map((this.seen()?.rows ?? []).map((row) => [row.name.toLowerCase(), row]));
    return this.keys().map(({ name, key, segment, accessClass }) => ({
      ...{
        name,
        key,
        leads: accessClass === null ? (segment ?? this.store.ssid()?.segment ?? '') : `class ${accessClass}`,
      },
      seen: segment === null ? undefined : seen.get(segment.toLowerCase()),
    }));
  });
  protected readonly height = computed(() => heightInCell(this.rows().length));
  protected readonly nameOf = ({ name }: Row): string => name;
  protected readonly columns: readonly TableColumn<Row>[] = [
    { key: 'name', title: 'Key for', text: ({ name }) => name, width: 110, phone: true },
    { key: 'key', title: 'Key', text: ({ key }) => key, width: 130, mono: true, phone: true },
    { key: 'leads', title: 'Leads to', text: ({ leads }) => leads, width: 110 },
    { key: 'vlan', title: 'VLAN ID', text: ({ seen }) => (seen ? String(seen.vlan) : ''), width: 70, mono: true },
    { key: 'subnet', title: 'Subnet', text: ({ seen }) => seen?.subnet ?? '', width: 120, mono: true },
    {
      key: 'does',
      title: 'Segment is',
      text: ({ seen }) =>
        !seen ? '' : (seen.flaws[0]?.message ?? { add: 'made', there: 'there', refused: 'refused' }[seen.does]),
      tone: ({ seen }) => (seen?.does === 'refused' ? 'bad' : seen?.does === 'there' ? 'soft' : ''),
      width: 200,
      groups: true,
    },
  ];

  constructor() {
    const question = computed(() => {
      const [rows, draft, siteId, ssid] = [
        this.segmentsAsked(),
        this.site.draft(),
        this.site.siteId(),
        this.store.ssid(),
      ];
      if (!rows || !draft || !siteId || !ssid) return null;
      const { recipeId, bits } = this.text();
      const body = { ssidId: ssid.id, recipeId, length: recipeId === null ? Number(bits) : 24, rows };
      return JSON.stringify({ url: `/api/drafts/${draft.id}/sites/${siteId}/ring-segments`, head: draft.head, body });
    });
    effect((onCleanup) => {
      const asked = question();
      untracked(() => this.seen.set(null));
      if (asked === null) return;
      const resting = setTimeout(() => void this.ask(JSON.parse(asked) as { url: string; body: object }), REST_MS);
      onCleanup(() => clearTimeout(resting));
    });
  }

  protected put(change: Partial<ManyText>): void {
    this.problem.set(null);
    this.text.update((text) => ({ ...text, ...change }));
  }

  /** Asks what the segments come to; nothing is changed by it. An answer that comes after the next question is none. */
  private async ask({ url, body }: { readonly url: string; readonly body: object }): Promise<void> {
    const turn = ++this.asked;
    await attempt(null, this.problem, async () => {
      const seen = await firstValueFrom(this.http.post<RingSegments>(url, body));
      if (turn === this.asked) this.seen.set(seen);
    });
  }

  protected async make(): Promise<void> {
    const [keys, operations] = [this.keys(), this.segmentsAsked() ? (this.seen()?.operations ?? []) : []];
    const done = await attempt(this.busy, this.problem, async () => {
      // Segments first: keys that lead nowhere would let nobody in.
      if (operations.length > 0) await this.site.edit(operations);
      await this.store.add(keys);
    });
    if (done) this.closed.emit();
  }
}
