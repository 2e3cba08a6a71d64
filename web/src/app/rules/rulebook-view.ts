import { CdkDrag, CdkDragHandle, CdkDropList, type CdkDragDrop } from '@angular/cdk/drag-drop';
import { Component, ElementRef, computed, inject, input, output } from '@angular/core';
import type { Finding } from '@iron-lattice/core/assess';
import type { PolicyRow, RuleBook } from '@iron-lattice/core/rollout';
import { writeEnds, writeServices, writeTimes, type RulePlace } from '@iron-lattice/core/rules';
import { SessionStore } from '../session/session-store';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { SeverityMark } from '../ui/severity-mark';
import { RulesFacts } from './rules-facts';

const TITLES: Readonly<Record<RuleBook, string>> = {
  before: 'Every site, before its own',
  site: 'This site',
  published: 'From what is published, under Paths',
  isolation: 'From isolation',
  after: 'Every site, after its own',
  always: 'Always',
};
const PLACES: Readonly<Record<RulePlace, string>> = { gateway: 'gateway', switches: 'switches', aps: 'APs' };
const PLACE_TITLES: Readonly<Record<RulePlace, string>> = {
  gateway: 'At the gateway, which remembers what it let through',
  switches: 'At switches, which judge each packet by itself',
  aps: 'At APs, which judge each packet by itself',
};
const BOOKS = ['before', 'site', 'published', 'isolation', 'after', 'always'] as const;

/** The rules of a site in the order in which they are asked; the first that matches a packet decides it. */
@Component({
  selector: 'il-rulebook-view',
  imports: [CdkDrag, CdkDragHandle, CdkDropList, SeverityMark],
  template: `
    <div class="head" aria-hidden="true">
      <span></span><span>No.</span><span>Verdict</span><span>From</span><span>To</span><span>Services</span
      ><span>At</span><span>What it is for</span><span class="num">Decided</span><span></span>
    </div>
    @for (book of groups(); track book.name) {
      <section [attr.aria-label]="book.title">
        <h3>
          {{ book.title }} <span class="soft">{{ book.rows.length }}</span>
        </h3>
        @if (book.rows.length === 0) {
          <p class="soft none">
            {{ book.none }}
          </p>
        }
        <ol cdkDropList [cdkDropListDisabled]="!session.mayChange()" (cdkDropListDropped)="dropped(book.rows, $event)">
          @for (line of book.rows; track line.row.rule.id) {
            <li
              cdkDrag
              [cdkDragDisabled]="!line.own"
              cdkDragLockAxis="y"
              tabindex="0"
              [attr.data-rule]="line.row.rule.id"
              [attr.aria-current]="line.row.rule.id === shown() ? 'true' : null"
              [class.chosen]="line.row.rule.id === shown()"
              [class.off]="!line.row.applies"
              (click)="chosen.emit(line.row)"
              (keydown)="onKey(book.rows, $index, $event)"
            >
              <span class="grip" cdkDragHandle [class.still]="!line.own" aria-hidden="true">{{
                line.own && session.mayChange() ? '⠿' : ''
              }}</span>
              <span class="mono soft">{{ line.number }}</span>
              <span class="verdict" [class.allow]="line.row.rule.verdict === 'allow'">{{ line.row.rule.verdict }}</span>
              <span class="end from" [title]="line.from">{{ line.from }}</span>
              <span class="end to" [title]="line.to">{{ line.to }}</span>
              <span class="mono end services" [title]="line.services">{{ line.services }}</span>
              <span class="end soft places">{{ line.places }}</span>
              <span class="end comment" [title]="line.comment">
                @if (line.row.rule.off) {
                  <b class="soft">off</b>
                }
                @if (line.times) {
                  <b class="info">{{ line.times }}</b>
                }
                {{ line.comment }}
              </span>
              <span class="mono num" [class.soft]="line.quiet">{{ line.hits }}</span>
              <span class="mark">
                @if (line.finding; as finding) {
                  <span [title]="finding.message + '. ' + finding.reason">
                    <il-severity-mark [severity]="finding.severity" />
                  </span>
                }
              </span>
            </li>
          }
        </ol>
      </section>
    }
  `,
  styles: `
    :host {
      display: block;
      min-width: 760px;
    }
    .head,
    li {
      display: grid;
      grid-template-columns: 18px 30px 54px 1.2fr 1.2fr minmax(80px, 0.8fr) 66px 1.5fr 84px 22px;
      gap: 0 8px;
      align-items: center;
      padding: 0 14px 0 6px;
    }
    .head {
      position: sticky;
      top: 0;
      z-index: 1;
      height: 27px;
      background: var(--ground);
      border-bottom: 1px solid var(--ink);
      color: var(--soft);
      font:
        600 12px/18px 'Barlow Semi Condensed',
        Barlow;
    }
    h3 {
      font:
        600 12px/18px 'Barlow Semi Condensed',
        Barlow;
      padding: 8px 14px 4px;
      border-bottom: 1px solid var(--strong);
    }
    ol {
      list-style: none;
      margin: 0;
      padding: 0;
    }
    li {
      height: 26px;
      border-bottom: 1px solid var(--rule);
      background: var(--ground);
      cursor: pointer;
      white-space: nowrap;
    }
    li:hover {
      background: color-mix(in srgb, var(--ink) 4%, var(--ground));
    }
    li.chosen {
      background: var(--tint);
      box-shadow: inset 3px 0 0 var(--iron);
    }
    li:focus-visible {
      outline-offset: -2px;
    }
    li.off .end {
      color: var(--soft);
    }
    .grip {
      cursor: grab;
      color: var(--soft);
      text-align: center;
    }
    .grip.still {
      cursor: default;
    }
    .verdict {
      background: var(--ground);
      color: var(--bad);
      border: 1px solid currentColor;
      width: 44px;
      text-align: center;
      line-height: 16px;
      font-weight: 600;
      font-size: 12px;
      border-style: dashed;
    }
    .verdict.allow {
      color: var(--good);
      border-style: solid;
    }
    .end {
      overflow: hidden;
      text-overflow: ellipsis;
    }
    .num {
      text-align: right;
    }
    .none {
      padding: 6px 14px;
    }
    .cdk-drag-preview {
      border: 1px solid var(--ink);
    }
    .cdk-drag-placeholder {
      opacity: 0.35;
    }
    /* A rule is a few lines, so that nothing of it is cut off. */
    @media (max-width: 720px) {
      :host {
        min-width: 0;
      }
      .head {
        display: none;
      }
      li {
        grid-template-columns: 18px 22px 54px 1fr 1fr 22px;
        grid-template-areas:
          'grip number verdict from from mark'
          '. . . to to mark'
          '. . . services places hits'
          '. . . comment comment comment';
        align-items: start;
        height: auto;
        min-height: 44px;
        padding: 6px 12px 6px 6px;
        line-height: 18px;
      }
      li > .verdict {
        align-self: start;
        grid-area: verdict;
      }
      .from {
        grid-area: from;
      }
      .to {
        grid-area: to;
      }
      .to::before {
        content: '→ ';
        color: var(--soft);
      }
      .services {
        grid-area: services;
      }
      .places {
        grid-area: places;
      }
      .comment {
        grid-area: comment;
        color: var(--soft);
      }
      .num {
        display: none;
      }
      .mark {
        grid-area: mark;
        align-self: start;
      }
      .end {
        white-space: normal;
        overflow-wrap: anywhere;
      }
    }
  `,
})
export class RulebookView {
  private readonly store = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  private readonly facts = inject(RulesFacts);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  protected readonly session = inject(SessionStore);
  /** Id of the rule that is shown in the sheet. */
  readonly shown = input<string | null>(null);
  /** Whether rules stand under the places where they take effect, or under their rulebooks. */
  readonly byPlace = input(false);
  readonly chosen = output<PolicyRow>();
  readonly moved = output<{ readonly row: PolicyRow; readonly steps: number }>();
  readonly removed = output<PolicyRow>();

  private readonly findings = computed(() => {
    const worst = new Map<string, Finding>();
    for (const finding of this.store.consequences()?.findings ?? [])
      if (finding.place.kind === 'rule' && !worst.has(finding.place.id)) worst.set(finding.place.id, finding);
    return worst;
  });
  private readonly lines = computed(() =>
    this.facts.rows().map((row, i) => {
      const { rule } = row;
      const hits = this.facts.hits().get(rule.id);
      return {
        row,
        own: this.facts.bookOf(row) !== null,
        number: i + 1,
        from: wordsOf(writeEnds(rule.from)),
        to: wordsOf(writeEnds(rule.to)),
        services: writeServices(rule.services),
        times: this.hoursOf(rule) ?? (rule.times ? writeTimes(rule.times) : ''),
        places: this.placesOf(row),
        comment: rule.comment ?? '',
        hits: this.facts.hitWords(hits),
        quiet: !hits?.lastAt,
        finding: this.findings().get(rule.id),
      };
    }),
  );
  /** Name of the hours that a rule is in force at. */
  private hoursOf = ({ hours }: PolicyRow['rule']): string | undefined =>
    hours ? this.shared.estate()?.hours?.find(({ id }) => id === hours)?.name : undefined;

  /** Where it takes effect; over all sites, where it is to, since each site's boxes decide. */
  private placesOf({ rule, places }: PolicyRow): string {
    if (this.store.siteId() === null) return rule.at ? PLACES[rule.at] : '–';
    return places.map((place) => PLACES[place]).join(', ');
  }
  /** Books that are shown though they are empty: one may add to them. */
  private readonly always = computed((): readonly RuleBook[] =>
    this.store.siteId() === null ? ['before', 'after'] : ['site'],
  );
  private readonly books = computed(() =>
    BOOKS.map((name) => ({
      name,
      title: TITLES[name],
      none:
        name === 'site'
          ? 'No rule of its own yet. What no rule says anything of passes between segments and out to the internet.'
          : 'None yet.',
      rows: this.lines().filter((line) => line.row.book === name),
    })).filter(({ name, rows }) => rows.length > 0 || this.always().includes(name)),
  );
  /** The rules of each place in the order in which it asks them; one that takes effect at two stands under both. */
  private readonly places = computed(() => [
    ...(['gateway', 'switches', 'aps'] as const).map((name) => ({
      name,
      title: PLACE_TITLES[name],
      none: 'No rule takes effect here.',
      rows: this.lines().filter((line) => line.row.places.includes(name)),
    })),
    {
      name: 'nowhere' as const,
      title: 'Nowhere',
      none: 'Every rule takes effect somewhere.',
      rows: this.lines().filter((line) => line.row.places.length === 0),
    },
  ]);
  protected readonly groups = computed(() => (this.byPlace() ? this.places() : this.books()));

  protected dropped(rows: readonly { row: PolicyRow }[], { previousIndex, currentIndex }: CdkDragDrop<unknown>): void {
    this.moveTo(rows, previousIndex, currentIndex);
  }

  /** Moves a rule to where another of its group stands; beyond its own book it goes to that one’s end. */
  private moveTo(rows: readonly { row: PolicyRow }[], from: number, to: number): void {
    const [row, target] = [rows[from]?.row, rows[to]?.row];
    if (!row || !target || from === to || !this.facts.bookOf(row)) return;
    const book = this.facts.rows().filter((each) => each.book === row.book);
    const steps = target.book === row.book ? book.indexOf(target) - book.indexOf(row) : (to - from) * book.length;
    this.moved.emit({ row, steps });
  }

  protected onKey(rows: readonly { row: PolicyRow }[], index: number, event: KeyboardEvent): void {
    const { row } = rows[index]!;
    const down = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
    if (down !== 0 && event.altKey) this.moveTo(rows, index, index + down);
    else if (down !== 0) {
      const all = [...this.host.nativeElement.querySelectorAll<HTMLElement>('li')];
      const next = all[all.indexOf(event.currentTarget as HTMLElement) + down];
      next?.focus();
      if (next && this.shown()) next.click();
    } else if (event.key === 'Enter' || event.key === ' ') this.chosen.emit(row);
    else if (event.key === 'Delete' && this.facts.bookOf(row)) this.removed.emit(row);
    else return;
    event.preventDefault();
  }
}

/** The ends without the word before a segment, which most are. */
const wordsOf = (ends: string): string => ends.replace(/(^|, )segment /g, '$1');
