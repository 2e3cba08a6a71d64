import { Component, ElementRef, computed, inject, resource, signal } from '@angular/core';
import type { MatrixEnd } from '@iron-lattice/core/assess';
import type { Reach } from '@iron-lattice/core/rules';
import { PastChoice } from '../shell/past-choice';
import { EstateStore } from '../shell/estate-store';
import { PastStore } from '../shell/past-store';
import { SiteStore } from '../shell/site-store';
import { ReachCellDetail } from './reach-cell-detail';
import { RulesApi, type On } from './rules-api';
import { anewFor } from '../ui/anew-for';

const WORDS: Readonly<Record<Reach, string>> = {
  all: 'everything',
  some: 'some traffic',
  none: 'nothing',
  absent: 'not decided by rules',
};

/** Who reaches whom: each place against every other, on the draft and on what devices run. */
@Component({
  selector: 'il-reach-view',
  imports: [PastChoice, ReachCellDetail],
  template: `
    @if (matrix.hasValue()) {
      @let all = matrix.value();
      <div class="bar">
        <div class="choices" role="group" aria-label="Which rules">
          <button type="button" [attr.aria-pressed]="on() === 'draft'" (click)="on.set('draft')">On the draft</button>
          <button
            type="button"
            [attr.aria-pressed]="on() === 'live'"
            [disabled]="all.live === null"
            (click)="on.set('live')"
          >
            {{ past.then() === undefined ? 'On live' : 'On ' + past.words() }}
          </button>
        </div>
        <il-past-choice />
        @if (others().length > 0) {
          <label
            >To
            <select aria-label="The site that is reached" (change)="toSite.set($any($event.target).value || null)">
              <option value="" [selected]="toSite() === null">this site</option>
              @for (site of others(); track site.value) {
                <option [value]="site.value" [selected]="toSite() === site.value">{{ site.label }}</option>
              }
            </select>
          </label>
        }
        @if (all.moments.length > 1) {
          <label
            >At
            <select [value]="minute() ?? all.moments[0]!.minute" (change)="minute.set(+$any($event.target).value)">
              @for (moment of all.moments; track moment.minute) {
                <option [value]="moment.minute">{{ moment.words }}</option>
              }
            </select>
          </label>
        }
        <span class="key"><i class="all"></i> everything</span>
        <span class="key"><i class="some"></i> some</span>
        <span class="key"><i class="none"></i> nothing</span>
        @if (differing() > 0) {
          <span class="key"><i class="none differs"></i> differs from {{ past.words() }}: {{ differing() }}</span>
        } @else {
          <span class="soft">{{
            all.live ? 'The draft and ' + past.words() + ' are alike.' : 'No gateway runs rules yet.'
          }}</span>
        }
      </div>
      @for (stop of all.stops; track stop) {
        <p class="calm bad" role="status">{{ stop }}</p>
      }
      <div class="scroll">
        <table aria-label="Who reaches whom" (keydown)="onKey($event)">
          <thead>
            <tr>
              <th scope="col"><span class="soft">from ↓ to →</span></th>
              @for (place of all.columns ?? all.places; track place.key) {
                <th scope="col" class="col">
                  <span>{{ title(place) }}</span>
                </th>
              }
            </tr>
          </thead>
          <tbody>
            @for (row of rows(); track row.place.key; let r = $index) {
              <tr>
                <th scope="row">{{ title(row.place) }}</th>
                @for (cell of row.cells; track $index; let c = $index) {
                  <td [class.split]="splits()[c]">
                    @if (cell.reach === 'absent') {
                      <span class="soft" title="What the gateway sends itself is not decided by rules">–</span>
                    } @else {
                      <button
                        type="button"
                        [attr.data-at]="r + ' ' + c"
                        [tabindex]="r === at()[0] && c === at()[1] ? 0 : -1"
                        [class.here]="open()?.from === row.place.key && open()?.to === cell.to.key"
                        [attr.aria-label]="cell.words"
                        [title]="cell.words"
                        (focus)="at.set([r, c])"
                        (click)="show(row.place, cell.to)"
                      >
                        <i [class]="cell.reach" [class.differs]="cell.differs"></i>
                      </button>
                    }
                  </td>
                }
              </tr>
            }
          </tbody>
        </table>
      </div>
      @if (open(); as cell) {
        <il-reach-cell-detail
          [from]="cell.from"
          [to]="cell.to"
          [heading]="cell.heading"
          [on]="on()"
          [minute]="minute()"
          [then]="past.then()"
          [toSite]="toSite()"
          [basis]="store.draft()?.head ?? 0"
          (closed)="open.set(null)"
          (drawn)="keepInSight()"
        />
      } @else {
        <p class="soft calm">Press a cell to see exactly what gets through, and the rules that make it so.</p>
      }
    } @else if (matrix.error()) {
      <p class="calm bad" role="alert">{{ matrix.error()!.message }}</p>
    } @else {
      <p class="calm soft" role="status">Computing…</p>
    }
  `,
  styles: `
    .bar {
      display: flex;
      flex-wrap: wrap;
      gap: 6px 16px;
      align-items: center;
      padding: 0 14px 8px;
    }
    .key {
      display: inline-flex;
      gap: 6px;
      align-items: center;
    }
    .scroll {
      overflow: auto;
      padding-top: 4px;
      max-height: 100%;
    }
    table {
      border-collapse: collapse;
      margin: 0 14px;
    }
    th {
      font-weight: 500;
      text-align: left;
      white-space: nowrap;
      padding: 0 12px 0 0;
      height: 27px;
    }
    th[scope='row'] {
      position: sticky;
      left: 0;
      background: var(--ground);
    }
    .col {
      height: 164px;
      width: 30px;
      min-width: 30px;
      padding: 0;
      vertical-align: bottom;
      position: relative;
    }
    .col span {
      position: absolute;
      left: 12px;
      bottom: 6px;
      transform-origin: 0 100%;
      transform: rotate(-60deg);
      max-width: 182px;
      overflow: hidden;
      text-overflow: ellipsis;
      line-height: 14px;
      color: var(--soft);
    }
    td {
      padding: 0;
      border: 1px solid var(--rule);
      text-align: center;
      width: 30px;
      height: 27px;
    }
    td button {
      all: unset;
      scroll-margin-bottom: 50vh;
      box-sizing: border-box;
      cursor: pointer;
      width: 100%;
      height: 26px;
      display: grid;
      place-items: center;
    }
    td button:hover,
    td button.here {
      background: var(--tint);
    }
    td button.here {
      outline: 1px solid var(--ink);
    }
    td button:focus-visible {
      outline: 2px solid var(--iron);
      outline-offset: -2px;
    }
    i {
      display: inline-block;
      width: 14px;
      height: 14px;
      border: 2px solid var(--good);
      box-sizing: border-box;
    }
    i.all {
      background: var(--good);
    }
    i.some {
      background: linear-gradient(135deg, var(--caution) 50%, transparent 50%);
      border-color: var(--caution);
    }
    i.none {
      border: 0;
      height: 2px;
      background: var(--strong);
    }
    i.differs {
      outline: 2px solid var(--iron);
      outline-offset: 3px;
    }
    .calm {
      padding: 10px 14px;
    }
    select {
      height: 26px;
      border: 1px solid var(--strong);
      background: var(--sheet);
      color: var(--ink);
      font: inherit;
    }
  `,
})
export class ReachView {
  private readonly api = inject(RulesApi);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  protected readonly store = inject(SiteStore);
  protected readonly past = inject(PastStore);
  private readonly estate = inject(EstateStore);
  protected readonly on = signal<On>('draft');
  protected readonly minute = signal<number | null>(null);
  protected readonly at = signal<readonly [number, number]>([0, 0]);
  /** Another site that is reached from this one; null: each place of this one. */
  protected readonly toSite = anewFor<string | null>(this.store.siteId, () => null);
  /** Sites that can be, where sites are joined. */
  protected readonly others = computed(() => {
    if (!this.store.data()?.estate.overlay) return [];
    return this.estate.siteChoices().filter(({ value }) => value !== this.store.siteId());
  });
  protected readonly open = anewFor<{ from: string; to: string; heading: string } | null>(
    () => `${this.store.siteId()} ${this.toSite()}`,
    () => null,
  );
  /** Read anew when the draft moves, or a device runs something else. */
  protected readonly matrix = resource({
    params: () => {
      const draft = this.store.draft();
      if (!draft || !this.store.site()) return undefined;
      return {
        minute: this.minute(),
        then: this.past.then(),
        toSite: this.toSite(),
        draft: `${draft.id} ${draft.head}`,
        site: this.store.siteId(),
        runs: this.store
          .devices()
          .map(({ runs }) => runs)
          .join(),
      };
    },
    loader: ({ params }) => this.api.reach(params.minute, params.then, params.toSite),
  });

  protected readonly rows = computed(() => {
    const all = this.matrix.hasValue() ? this.matrix.value() : null;
    const shown = all && (this.on() === 'live' ? all.live : all.draft);
    if (!all || !shown) return [];
    return all.places.map((place, i) => ({
      place,
      cells: (all.columns ?? all.places).map((to, j) => {
        const reach = shown[i]![j]!;
        const other = (this.on() === 'live' ? all.draft : all.live)?.[i]![j] ?? reach;
        const differs = other !== reach;
        const than = this.on() === 'live' ? 'on the draft' : this.past.words();
        const words = `${this.title(place)} to ${this.title(to)}${this.place()}: ${WORDS[reach]}${differs ? `, ${than} ${WORDS[other]}` : ''}`;
        return { to, reach, differs, words };
      }),
    }));
  });
  protected readonly differing = computed(() =>
    this.rows().reduce((sum, { cells }) => sum + cells.filter(({ differs }) => differs).length, 0),
  );
  /** Whether a column begins another kind of place. */
  protected readonly splits = computed(() => {
    const { columns, places = [] } = this.matrix.hasValue() ? this.matrix.value() : {};
    return (columns ?? places).map(({ kind }, i, all) => i > 0 && all[i - 1]!.kind !== kind);
  });

  protected title({ kind, name }: MatrixEnd): string {
    return kind === 'ssid' ? `${name} (SSID)` : kind === 'class' ? `${name} (class)` : name;
  }

  /** Where columns are, in words, where that is another site. */
  private place(): string {
    const other = this.others().find(({ value }) => value === this.toSite());
    return other ? ` at ${other.label}` : '';
  }

  protected show(from: MatrixEnd, to: MatrixEnd): void {
    this.open.set({ from: from.key, to: to.key, heading: `${this.title(from)} → ${this.title(to)}${this.place()}` });
  }

  /** What a cell comes to lies across the foot: the cell stays above it. */
  protected keepInSight(): void {
    this.host.nativeElement.querySelector('td button.here')?.scrollIntoView({ block: 'nearest' });
  }

  protected onKey(event: KeyboardEvent): void {
    const step = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[event.key];
    if (!step) return;
    event.preventDefault();
    let [r, c] = this.at();
    for (;;) {
      r += step[0]!;
      c += step[1]!;
      const cell = this.rows()[r]?.cells[c];
      if (!cell) return;
      if (cell.reach !== 'absent') break;
    }
    this.at.set([r, c]);
    this.host.nativeElement.querySelector<HTMLElement>(`[data-at="${r} ${c}"]`)?.focus();
  }
}
