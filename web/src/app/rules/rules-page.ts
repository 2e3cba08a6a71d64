import { Component, computed, inject, input, linkedSignal, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatMenuModule } from '@angular/material/menu';
import { ActivatedRoute, Router } from '@angular/router';
import type { Operation } from '@iron-lattice/core/intent';
import type { PolicyRow } from '@iron-lattice/core/rollout';
import { PastStore } from '../shell/past-store';
import { SharedStore } from '../shell/shared-store';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { Turns } from '../shell/turns';
import { Stage } from '../ui/stage';
import { AskBar } from './ask-bar';
import { ControllerSheet } from './controller-sheet';
import { GuaranteesView } from './guarantees-view';
import { ReachView } from './reach-view';
import { RuleListSheet } from './rule-list-sheet';
import { RuleSheet } from './rule-sheet';
import { RulebookView } from './rulebook-view';
import { RulesApi } from './rules-api';
import { RulesFacts } from './rules-facts';
import { SetSheet } from './set-sheet';
import { SetsView } from './sets-view';

const VIEWS = ['Rulebook', 'Reach', 'Sets', 'Guarantees'] as const;
type View = (typeof VIEWS)[number];
type Open = 'rule' | 'set' | 'list' | 'controller' | null;

/** The rules of a site: the rulebook, who reaches whom by it, the sets it names, and what has to hold whatever it says. */
@Component({
  selector: 'il-rules-page',
  imports: [
    MatButtonModule,
    MatMenuModule,
    Stage,
    AskBar,
    ControllerSheet,
    GuaranteesView,
    ReachView,
    RuleListSheet,
    RuleSheet,
    RulebookView,
    SetSheet,
    SetsView,
  ],
  providers: [PastStore, RulesFacts],
  template: `
    <il-stage heading="Rules" [note]="note()">
      <div actions class="choices" role="group" aria-label="What is shown">
        @for (each of views(); track each) {
          <button type="button" [attr.aria-pressed]="view() === each" (click)="look(each)">
            {{ each }}
            @if (each === 'Guarantees' && broken() > 0) {
              <b class="bad">{{ broken() }}</b>
            }
          </button>
        }
      </div>
      <button actions mat-button [matMenuTriggerFor]="more">More</button>
      <mat-menu #more>
        @if (view() === 'Rulebook' && !shared.atEstate()) {
          <button mat-menu-item (click)="byPlace.set(!byPlace())">
            {{ byPlace() ? 'Group by rulebook' : 'Group by the place where they take effect' }}
          </button>
        }
        @if (session.mayChange()) {
          @if (!shared.atEstate()) {
            <button mat-menu-item (click)="open.set('list')">Rules from a list…</button>
          }
          <button mat-menu-item (click)="open.set('controller')">Where this controller answers…</button>
        }
        @if (!shared.atEstate()) {
          <a mat-menu-item [href]="file('csv')" download>This site’s rules as CSV</a>
          <a mat-menu-item [href]="file('nft')" download>The gateway’s policy as nftables</a>
          <a mat-menu-item [href]="file('acl')" download>Access lists as RFC 8519 JSON</a>
        }
      </mat-menu>
      @if (session.mayChange() && view() === 'Sets') {
        <button actions mat-stroked-button (click)="newSet()">Add set</button>
      }
      @if (session.mayChange() && view() === 'Rulebook') {
        <button actions mat-stroked-button (click)="newRule()">Add rule</button>
      }
      @if (!shared.atEstate()) {
        <il-ask-bar />
      }
      @switch (view()) {
        @case ('Rulebook') {
          <il-rulebook-view
            [shown]="open() === 'rule' ? ruleId() : null"
            [byPlace]="byPlace()"
            (chosen)="choose($event)"
            (moved)="move($event.row, $event.steps)"
            (removed)="remove($event)"
          />
        }
        @case ('Reach') {
          <il-reach-view />
        }
        @case ('Sets') {
          <il-sets-view [shown]="open() === 'set' ? setId() : null" (chosen)="chooseSet($event)" />
        }
        @case ('Guarantees') {
          <il-guarantees-view [shown]="shownGuarantee()" />
        }
      }
      <ng-container ngProjectAs="[foot]">
        @switch (open()) {
          @case ('rule') {
            @if (ruleId() === null || row()) {
              <il-rule-sheet
                [row]="row()"
                [after]="after()"
                (closed)="open.set(null)"
                (added)="added($event)"
                (moved)="move(row()!, $event)"
                (removed)="remove(row()!)"
              />
            }
          }
          @case ('set') {
            @if (setId() === null || chosenSet()) {
              <il-set-sheet
                [set]="chosenSet()?.set ?? null"
                [isShared]="chosenSet()?.shared ?? false"
                (closed)="open.set(null)"
                (added)="setId.set($event)"
              />
            }
          }
          @case ('list') {
            <il-rule-list-sheet (closed)="open.set(null)" />
          }
          @case ('controller') {
            <il-controller-sheet (closed)="open.set(null)" />
          }
        }
      </ng-container>
    </il-stage>
  `,
  styles: `
    il-rule-sheet,
    il-set-sheet,
    il-rule-list-sheet,
    il-controller-sheet {
      display: contents;
    }
  `,
})
export class RulesPage {
  protected readonly store = inject(SiteStore);
  protected readonly shared = inject(SharedStore).follow();
  protected readonly session = inject(SessionStore);
  protected readonly facts = inject(RulesFacts);
  private readonly api = inject(RulesApi);
  protected readonly byPlace = signal(false);
  private readonly router = inject(Router);
  private readonly route = inject(ActivatedRoute);
  /** What is shown, from the address of the page. */
  readonly as = input<string>();
  /** A rule's id or `guarantee:` and an id, from a finding. */
  readonly show = input<string>();

  /** What one site reaches is seen at that site. */
  protected readonly views = computed(() => VIEWS.filter((each) => each !== 'Reach' || !this.shared.atEstate()));
  protected readonly shownGuarantee = computed(() => this.named('guarantee'));
  private readonly shownSet = computed(() => this.named('set'));
  private named(kind: string): string | null {
    const show = this.show() ?? '';
    return show.startsWith(`${kind}:`) ? show.slice(kind.length + 1) : null;
  }
  protected readonly view = computed(
    (): View =>
      this.views().find((each) => each.toLowerCase() === this.as()) ??
      (this.shownGuarantee() ? 'Guarantees' : this.shownSet() ? 'Sets' : 'Rulebook'),
  );
  /** The rule that is shown; null for a new one. */
  protected readonly ruleId = linkedSignal((): string | null => this.show() ?? null);
  protected readonly open = linkedSignal<string | undefined, Open>({
    source: () => this.show(),
    computation: (shown) =>
      !shown || shown.startsWith('guarantee:') ? null : shown.startsWith('set:') ? 'set' : 'rule',
  });
  protected readonly setId = linkedSignal((): string | null => this.shownSet());
  /** The rule that was shown when a new one was begun: it comes behind it. */
  protected readonly after = signal<PolicyRow | null>(null);
  protected readonly row = computed(() => this.facts.rows().find(({ rule }) => rule.id === this.ruleId()) ?? null);
  protected readonly chosenSet = computed(() => this.facts.sets().find(({ set }) => set.id === this.setId()));
  protected readonly broken = computed(
    () => (this.store.consequences()?.guarantees ?? []).filter(({ state }) => state === 'broken').length,
  );
  protected readonly note = computed(() => {
    const rows = this.facts.rows();
    if (this.shared.atEstate()) return `${rows.length} of every site`;
    const own = rows.filter(({ book }) => book === 'site').length;
    return `${rows.length} in force, ${own} of this site`;
  });

  protected look(view: View): void {
    this.open.set(null);
    const as = view.toLowerCase();
    void this.router.navigate([], {
      relativeTo: this.route,
      queryParams: { as, show: null },
      queryParamsHandling: 'merge',
    });
  }

  protected file(format: 'csv' | 'nft' | 'acl'): string {
    return `${this.api.base}/rules/${format}`;
  }

  protected choose({ rule }: PolicyRow): void {
    this.ruleId.set(rule.id);
    this.open.set('rule');
  }

  protected newRule(): void {
    this.after.set(this.open() === 'rule' ? this.row() : null);
    this.ruleId.set(null);
    this.open.set('rule');
  }

  protected added(id: string): void {
    this.ruleId.set(id);
  }

  protected chooseSet(id: string): void {
    this.setId.set(id);
    this.open.set('set');
  }

  protected newSet(): void {
    this.setId.set(null);
    this.open.set('set');
  }

  /** Moves are made one after the other: each begins where the one before left the rule. */
  private readonly moves = new Turns();

  /** Moves a rule within its book. @param steps down, or up where negative. */
  protected move({ rule }: PolicyRow, steps: number): void {
    void this.moves.take(() => this.moveNow(rule.id, steps));
  }

  private async moveNow(id: string, steps: number): Promise<void> {
    const row = this.facts.rows().find((each) => each.rule.id === id);
    const of = row && this.facts.bookOf(row);
    if (!row || !of || !this.session.mayChange()) return;
    const book = this.facts
      .rows()
      .filter((each) => each.book === row.book)
      .map(({ rule }) => rule.id);
    const at = book.indexOf(row.rule.id);
    const place = Math.max(0, Math.min(book.length - 1, at + steps));
    if (place === at) return;
    const others = book.toSpliced(at, 1);
    const operation: Operation = {
      type: 'rule.move',
      ruleId: row.rule.id,
      from: book[at - 1] ?? null,
      to: others[place - 1] ?? null,
      ...of,
    };
    await this.store.tryEdit([operation]);
  }

  protected remove(row: PolicyRow): void {
    const of = this.facts.bookOf(row);
    if (!of || !this.session.mayChange()) return;
    if (this.ruleId() === row.rule.id) this.open.set(null);
    void this.store.tryEdit([{ type: 'rule.remove', ruleIds: [row.rule.id], ...of }]);
  }
}
