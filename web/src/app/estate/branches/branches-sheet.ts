import { HttpClient } from '@angular/common/http';
import { Component, computed, DestroyRef, effect, inject, output, signal, untracked } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { HARDWARE_SHEETS } from '@iron-lattice/core/hardware';
import type { BranchesMade, BranchesSeen, BranchColumn } from '@iron-lattice/core/intake';
import { COUNTRIES } from '@iron-lattice/core/regulation';
import { firstValueFrom } from 'rxjs';
import { attempt, problemOf, type Problem } from '../../session/problem';
import { EstateStore } from '../../shell/estate-store';
import { SharedStore } from '../../shell/shared-store';
import { SiteStore } from '../../shell/site-store';
import { Cell } from '../../ui/cell';
import { ChoiceCell, type Choice } from '../../ui/choice-cell';
import { choicePlaces, chosenAt } from '../../ui/choice-places';
import { counted } from '../../ui/counted';
import { FileDrop } from '../../ui/file-drop';
import { Sheet } from '../../ui/sheet';
import { TextCell } from '../../ui/text-cell';
import { BranchesSeenView } from './branches-seen';
import { commonTyped, NO_BRANCH, NO_COMMON, tableOfOne, type BranchText, type CommonText } from './branches-text';

/** How long somebody may go on typing before it is looked at anew, in milliseconds. */
const SOON_MS = 300;
const MODES = ['One branch', 'A list'] as const;
const GATEWAYS: readonly Choice[] = [
  { value: '', label: 'as it calls' },
  ...HARDWARE_SHEETS.filter(({ kind }) => kind === 'gateway').map(({ model }) => ({ value: model, label: model })),
];
const LENGTHS: readonly Choice[] = [24, 25, 26, 27, 28, 29].map((length) => ({
  value: length,
  label: `/${length}: ${2 ** (32 - length) - 2} addresses`,
}));
const EXAMPLE = `name, gateway, model, uplinks, tags
Harrow Point, 3A1-0201-11, GW-4, dhcp 100/20; wan2 cellular standby, terminal`;

/**
 * Branches in one go: what cannot be derived is typed, for one or as a list of many; what would be there, what it follows from, and who
 * would be told what is shown beside it before any of it is made.
 */
@Component({
  selector: 'il-branches-sheet',
  imports: [MatButtonModule, BranchesSeenView, Cell, ChoiceCell, FileDrop, Sheet, TextCell],
  template: `
    <il-sheet
      heading="Branches in one go"
      note="The same sites, devices, segments and tunnels as everywhere: each is changed where it lives."
      [focusFirst]="true"
      (closed)="closed.emit()"
    >
      <button actions mat-flat-button type="button" [disabled]="busy() || !ready()" (click)="make()">
        {{ label() }}
      </button>
      <div class="both">
        <div>
          <div class="choices" role="group" aria-label="How many">
            @for (each of modes; track each) {
              <button type="button" [attr.aria-pressed]="mode() === each" (click)="mode.set(each)">{{ each }}</button>
            }
          </div>
          <div class="cells">
            @if (mode() === 'One branch') {
              @let typed = text();
              <il-text-cell
                label="Name"
                for="branch-name"
                example="Harrow Point"
                [flaw]="flawOf('name')"
                [value]="typed.name"
                (typed)="put({ name: $event })"
              />
              <il-text-cell
                label="Serial number of its gateway"
                for="branch-serial"
                example="3A1-0201-11"
                [mono]="true"
                [flaw]="flawOf('serial')"
                [value]="typed.serial"
                (typed)="put({ serial: $event })"
              />
              <il-choice-cell
                label="Model"
                for="branch-model"
                [options]="gateways"
                [flaw]="flawOf('model')"
                [value]="typed.model"
                (chosen)="put({ model: $event })"
              />
              <il-text-cell
                label="Uplinks"
                for="branch-uplinks"
                size="wide"
                example="dhcp 100/20; wan2 cellular standby"
                hint="Or static 203.0.113.10/29 via 203.0.113.9, pppoe NAME PASSWORD; Mb/s down/up if known"
                [mono]="true"
                [flaw]="flawOf('uplinks')"
                [value]="typed.uplinks"
                (typed)="put({ uplinks: $event })"
              />
              <il-text-cell
                label="More devices"
                for="branch-devices"
                example="SW-24P 5C2-0201-12; AP-6E 7K4-0201-13"
                [mono]="true"
                [flaw]="flawOf('devices')"
                [value]="typed.devices"
                (typed)="put({ devices: $event })"
              />
              <il-text-cell
                label="Tags"
                for="branch-tags"
                example="none"
                hint="What is for sites with a tag reaches it too"
                [value]="typed.tags"
                (typed)="put({ tags: $event })"
              />
            } @else {
              <il-cell label="Typed or pasted, a branch on each line" for="branch-rows" size="wide">
                <textarea
                  #rows
                  id="branch-rows"
                  class="mono"
                  rows="6"
                  spellcheck="false"
                  [placeholder]="example"
                  [value]="list()"
                  (input)="list.set(rows.value)"
                ></textarea>
                <button
                  mat-stroked-button
                  type="button"
                  [disabled]="busy() || list().trim() === ''"
                  (click)="read('What was typed', list())"
                >
                  Look at it
                </button>
              </il-cell>
              <il-cell label="Or a file: CSV or XLSX" [flaw]="unread()?.message">
                <il-file-drop
                  label="Choose a file, or drop it here"
                  accept=".csv,.txt,.tsv,.xlsx"
                  hint="What a cell leaves empty is derived, or as below."
                  (file)="read($event.name, $event)"
                />
                <p class="hint"><a href="/api/branch-lists/sample" download>Sample file</a></p>
                @if (table(); as known) {
                  <p>{{ known.name }}: {{ lines(known.table.length) }}</p>
                }
              </il-cell>
            }
            @let all = common();
            <il-choice-cell
              label="Segments by recipe"
              for="branch-recipes"
              [several]="true"
              [example]="recipes().length === 0 ? 'there is no recipe yet' : 'management alone'"
              [options]="recipes()"
              [flaw]="flawOf('segments')"
              [value]="all.recipeIds"
              (chosen)="say({ recipeIds: $event })"
            />
            @for (place of hubs(); track $index) {
              <il-choice-cell
                [label]="$index === 0 ? 'Joined by the hub' : 'If that is gone, by'"
                [for]="'branch-hub-' + $index"
                [options]="place.options"
                [value]="place.value"
                [example]="$index === 0 ? 'not joined' : 'nothing'"
                [flaw]="$index === 0 ? flawOf('hubs') : ''"
                (chosen)="say({ hubs: hubsWith($index, $event) })"
              />
            }
            @if (all.hubs.length > 0) {
              <il-choice-cell
                label="The internet"
                for="branch-leaves"
                [options]="leavings"
                [value]="all.leaves"
                (chosen)="say({ leaves: $event })"
              />
              <il-text-cell
                label="Others reach"
                for="branch-shares"
                example="every segment not kept apart"
                hint="Names of segments, parted by commas"
                [flaw]="flawOf('shares')"
                [value]="all.shares"
                (typed)="say({ shares: $event })"
              />
            }
            @if (mode() === 'One branch') {
              @let typed = text();
              <il-text-cell
                label="Country"
                for="branch-country"
                example="the estate’s"
                [offers]="countries"
                [flaw]="flawOf('country')"
                [value]="typed.country"
                (typed)="put({ country: $event })"
              />
              <il-text-cell
                label="Time zone"
                for="branch-zone"
                example="by the country"
                [offers]="zones"
                [flaw]="flawOf('timeZone')"
                [value]="typed.timeZone"
                (typed)="put({ timeZone: $event })"
              />
              <il-text-cell
                label="Address"
                for="branch-address"
                example="none"
                [value]="typed.address"
                (typed)="put({ address: $event })"
              />
              <il-text-cell
                label="Coordinates"
                for="branch-coordinates"
                example="53.3498, -6.2603"
                [mono]="true"
                [flaw]="flawOf('coordinates')"
                [value]="typed.coordinates"
                (typed)="put({ coordinates: $event })"
              />
            }
            <il-choice-cell
              label="Steered like"
              for="branch-like"
              [options]="sites()"
              [value]="all.like"
              hint="Its courses, and how it uses its uplinks together"
              (chosen)="say({ like: $event })"
            />
            <il-text-cell
              label="Router addresses from"
              for="branch-pool"
              example="room of its own in the address plan"
              hint="A prefix such as 10.250.0.0/16, filled in order"
              [mono]="true"
              [flaw]="flawOf('pool')"
              [value]="all.pool"
              (typed)="say({ pool: $event })"
            />
            @if (all.pool.trim() !== '') {
              <il-choice-cell
                label="Each gets"
                for="branch-length"
                [options]="lengths"
                [value]="all.length"
                (chosen)="say({ length: $event })"
              />
            }
          </div>
        </div>
        <section aria-label="What will be there">
          <h3>What will be there</h3>
          @if (problem(); as wrong) {
            <p class="flaw" role="alert">{{ wrong.message }}</p>
          }
          @if (seen(); as known) {
            <il-branches-seen [class.old]="!fresh()" [seen]="known" />
          } @else {
            <p class="soft">{{ waiting() }}</p>
          }
        </section>
      </div>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    .both {
      display: grid;
      grid-template-columns: minmax(0, 1fr) minmax(280px, 40%);
    }
    .choices {
      margin: 8px 14px;
    }
    textarea {
      width: 100%;
      box-sizing: border-box;
      border: 1px solid var(--strong);
      background: var(--sheet);
      color: var(--ink);
      padding: 6px 8px;
      resize: vertical;
      margin-bottom: 4px;
    }
    section {
      padding: 10px 14px 14px;
      border-left: 1px solid var(--rule);
    }
    h3 {
      margin: 0 0 6px;
    }
    .old {
      opacity: 0.55;
    }
    .flaw {
      color: var(--bad);
    }
    @media (max-width: 720px) {
      .both {
        grid-template-columns: minmax(0, 1fr);
      }
      section {
        border-left: 0;
        border-top: 1px solid var(--ink);
      }
    }
  `,
})
export class BranchesSheet {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  private readonly estate = inject(EstateStore);
  private readonly shared = inject(SharedStore).follow();
  readonly closed = output<void>();
  protected readonly modes = MODES;
  protected readonly gateways = GATEWAYS;
  protected readonly lengths = LENGTHS;
  protected readonly example = EXAMPLE;
  protected readonly countries = COUNTRIES.map(({ name }) => name);
  protected readonly zones = Intl.supportedValuesOf('timeZone');
  protected readonly leavings: readonly Choice[] = [
    { value: 'here', label: 'by uplinks of its own' },
    { value: 'hub', label: 'by its hub' },
  ];
  protected readonly mode = signal<(typeof MODES)[number]>('One branch');
  protected readonly text = signal<BranchText>(NO_BRANCH);
  protected readonly list = signal('');
  /** The list as it was read, and what it is called. */
  protected readonly table = signal<{ readonly name: string; readonly table: string[][] } | null>(null);
  protected readonly unread = signal<Problem | null>(null);
  private readonly said = signal<Partial<CommonText>>({});
  /** All recipes, and the hubs of most sites, until somebody says otherwise. */
  protected readonly common = computed((): CommonText => ({
    ...NO_COMMON,
    recipeIds: this.recipes().map(({ value }) => value as string),
    hubs: this.usualHubs(),
    ...this.said(),
  }));
  protected readonly seen = signal<BranchesSeen | null>(null);
  protected readonly problem = signal<Problem | null>(null);
  protected readonly busy = signal(false);
  private readonly seenOf = signal('');
  protected readonly recipes = computed((): readonly Choice[] =>
    (this.shared.estate()?.recipes ?? []).map(({ id, name, vlan }) => ({ value: id, label: `${name}, VLAN ${vlan}` })),
  );
  private readonly members = computed(() => this.shared.estate()?.members ?? []);
  private readonly siteOfHub = computed(
    () => new Map(this.members().flatMap(({ id, siteId, role }) => (role === 'hub' ? [[id, siteId] as const] : []))),
  );
  protected readonly hubs = computed(() => {
    const names = new Map(this.estate.siteChoices().map(({ value, label }) => [value, label]));
    const all = [...this.siteOfHub().values()].map((id): Choice => ({ value: id, label: names.get(id) ?? 'a site' }));
    const places = choicePlaces(this.common().hubs, all);
    return places.length === 0 ? [{ value: null, options: [] }] : places.map((place, i) => withNone(place, i));
  });
  protected readonly sites = computed((): readonly Choice[] => [
    { value: null, label: 'as usual' },
    ...this.estate.siteChoices(),
  ]);
  /** What is asked for; null while there is nothing to ask. */
  private readonly asked = computed(() => {
    const common = commonTyped(this.common());
    if (this.mode() === 'A list') {
      const table = this.table()?.table;
      return table ? { table, common } : null;
    }
    const text = this.text();
    return text.name.trim() === '' || text.serial.trim() === '' ? null : { table: tableOfOne(text), common };
  });
  private readonly key = computed(() =>
    JSON.stringify([this.asked(), this.store.draft()?.id, this.store.draft()?.head]),
  );
  /** Whether what is shown is what would be made of what is typed. */
  protected readonly fresh = computed(() => this.asked() !== null && this.seenOf() === this.key());
  protected readonly ready = computed(() => this.fresh() && (this.seen()?.count.sites ?? 0) > 0);
  private readonly bad = computed(() => (this.seen()?.rows ?? []).filter(({ good }) => good === null).length);
  protected readonly label = computed(() => {
    const sites = this.ready() ? this.seen()!.count.sites : 0;
    if (sites === 0) return 'Make them';
    const bad = this.bad();
    return bad > 0 ? `Make the ${sites} good, leave out ${bad}` : `Make ${counted(sites, 'branch', 'branches')}`;
  });
  protected readonly waiting = computed(() => {
    if (this.asked() !== null) return 'Looking…';
    return this.mode() === 'A list' ? 'Bring the list.' : 'A name and the serial number of its gateway are enough.';
  });

  constructor() {
    let timer: ReturnType<typeof setTimeout> | undefined;
    effect(() => {
      const key = this.key();
      untracked(() => {
        clearTimeout(timer);
        this.problem.set(null);
        if (this.asked() === null) this.seen.set(null);
        else timer = setTimeout(() => void this.look(key), SOON_MS);
      });
    });
    inject(DestroyRef).onDestroy(() => clearTimeout(timer));
  }

  /** The hubs that most joined sites have, in their order. */
  private usualHubs(): readonly string[] {
    const counts = new Map<string, number>();
    for (const { role, hubs } of this.members())
      if (role === 'spoke') counts.set(JSON.stringify(hubs), (counts.get(JSON.stringify(hubs)) ?? 0) + 1);
    const [most] = [...counts].sort(([, a], [, b]) => b - a);
    const ids = most ? (JSON.parse(most[0]) as string[]) : [...this.siteOfHub().keys()].slice(0, 2);
    return ids.flatMap((id) => this.siteOfHub().get(id) ?? []);
  }

  private async look(key: string): Promise<void> {
    const [asked, draft] = [this.asked(), this.store.draft()];
    if (!asked || !draft) return;
    const answer = await firstValueFrom(
      this.http.post<BranchesSeen>(`/api/drafts/${draft.id}/branches/look`, asked),
    ).then(
      (seen) => ({ seen }),
      (error: unknown) => ({ problem: problemOf(error) }),
    );
    if (key !== untracked(this.key)) return; // somebody typed on
    this.seenOf.set(key);
    this.seen.set('seen' in answer ? answer.seen : null);
    this.problem.set('problem' in answer ? answer.problem : null);
  }

  protected async read(name: string, list: string | Blob): Promise<void> {
    const headers = { 'content-type': 'application/octet-stream' };
    const file = typeof list === 'string' ? new Blob([list]) : list;
    await attempt(this.busy, this.unread, async () => {
      const read = this.http.post<{ table: string[][] }>('/api/branch-lists', file, { headers });
      this.table.set({ name, table: (await firstValueFrom(read)).table });
    });
  }

  protected async make(): Promise<void> {
    const [asked, draft, seen] = [this.asked(), this.store.draft(), this.seen()];
    if (!asked || !draft || !seen || !this.ready()) return;
    const body = { ...asked, basis: seen.basis, leaveOutBad: this.bad() > 0 };
    const done = await attempt(this.busy, this.problem, async () => {
      const made = await firstValueFrom(this.http.post<BranchesMade>(`/api/drafts/${draft.id}/branches`, body));
      const boxes = counted(made.devices, 'box', 'boxes');
      this.store.say(`${counted(made.sites, 'branch', 'branches')} made, ${boxes} expected. The rest is in the draft.`);
    });
    if (done) this.closed.emit();
    else this.seenOf.set(''); // it is looked at anew
  }

  protected put(change: Partial<BranchText>): void {
    this.text.update((text) => ({ ...text, ...change }));
  }

  protected say(change: Partial<CommonText>): void {
    this.said.update((said) => ({ ...said, ...change }));
  }

  protected hubsWith = (at: number, siteId: string | null): readonly string[] =>
    chosenAt(this.common().hubs, at, siteId);

  /** What is wrong with a field of the one branch, or with what all have. */
  protected flawOf(field: BranchColumn | 'pool'): string {
    const seen = this.seen();
    if (!seen || !this.fresh()) return '';
    const row = this.mode() === 'One branch' ? (seen.rows[0]?.flaws ?? []) : [];
    return [...seen.flaws, ...row]
      .filter((flaw) => flaw.field === field)
      .map(({ message }) => message)
      .join(' ');
  }

  protected lines = (rows: number): string => counted(rows, 'line');
}

/** The first place may be left empty as well: then they are not joined. */
const withNone = (place: { readonly value: unknown; readonly options: readonly Choice[] }, at: number) =>
  at === 0 ? { ...place, options: [{ value: null, label: 'not joined' }, ...place.options] } : place;
