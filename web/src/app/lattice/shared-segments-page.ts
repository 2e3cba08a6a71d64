import { Component, computed, inject, input } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { ActivatedRoute, Router } from '@angular/router';
import type { Recipe } from '@iron-lattice/core/intent';
import { SessionStore } from '../session/session-store';
import { lacksColumn, purposeColumn, sitesColumn, type SharedRow } from '../shell/shared-columns';
import { SharedList } from '../shell/shared-list';
import { SharedStore } from '../shell/shared-store';
import { SiteClients } from '../shell/site-clients';
import { counted } from '../ui/counted';
import type { TableColumn } from '../ui/data-rows';
import { OpenedRow } from '../ui/opened-row';
import { Stage } from '../ui/stage';
import { AddressPlanView } from './addresses/address-plan-view';
import { LatticeFacts } from './facts/lattice-facts';
import { RecipeSheet } from './segments/recipe-sheet';

type Row = Recipe & SharedRow;
const VIEWS = ['Recipes', 'Addresses'] as const;
type View = (typeof VIEWS)[number];

const COLUMNS: readonly TableColumn<Row>[] = [
  { key: 'name', title: 'Recipe', text: ({ name }) => name, width: 120, phone: true },
  { key: 'vlan', title: 'VLAN', text: ({ vlan }) => String(vlan), order: ({ vlan }) => vlan, width: 50, mono: true },
  { key: 'length', title: 'Subnets', text: ({ length }) => `/${length}`, width: 60, mono: true },
  {
    key: 'parent',
    title: 'Taken from',
    text: ({ parent }) => parent ?? 'each site’s own block',
    width: 140,
    groups: true,
  },
  sitesColumn('Stamped at'),
  lacksColumn('another', 'Differs'),
  purposeColumn(),
];

/** Segments as far as sites share them: recipes that are stamped into many, and the address space that all take from. */
@Component({
  selector: 'il-shared-segments-page',
  imports: [MatButtonModule, AddressPlanView, SharedList, RecipeSheet, Stage],
  providers: [LatticeFacts, SiteClients],
  template: `
    <il-stage heading="Segments" [note]="note()">
      <div actions class="choices" role="group" aria-label="What is shown">
        @for (each of views; track each) {
          <button type="button" [attr.aria-pressed]="view() === each" (click)="look(each)">{{ each }}</button>
        }
      </div>
      @if (session.mayChange() && view() === 'Recipes') {
        <button actions mat-flat-button (click)="opened.begin()">Add recipe</button>
      }
      @if (view() === 'Recipes') {
        <il-shared-list
          label="Segment recipes"
          remember="recipes"
          [things]="recipes()"
          [columns]="columns"
          [shown]="opened.id()"
          (opened)="opened.open($event)"
        >
          No recipe yet. A recipe says a segment once, and is stamped into many sites, each with a subnet of its own.
        </il-shared-list>
      } @else {
        <il-address-plan-view (segment)="toSegment($event)" />
      }
      <ng-container ngProjectAs="[foot]">
        @if (view() === 'Recipes') {
          @if (opened.isNew()) {
            <il-recipe-sheet [recipe]="null" (closed)="opened.close()" (kept)="opened.open($event)" />
          } @else if (opened.row(); as recipe) {
            <il-recipe-sheet [recipe]="recipe" (closed)="opened.close()" (kept)="opened.open($event)" />
          }
        }
      </ng-container>
    </il-stage>
  `,
  styles: `
    il-recipe-sheet {
      display: contents;
    }
  `,
})
export class SharedSegmentsPage {
  private readonly router = inject(Router);
  private readonly route = inject(ActivatedRoute);
  protected readonly shared = inject(SharedStore).follow();
  protected readonly session = inject(SessionStore);
  readonly show = input<string>();
  readonly add = input<string>();
  /** What is shown, from the address of the page. */
  readonly as = input<string>();
  protected readonly views = VIEWS;
  protected readonly view = computed((): View => VIEWS.find((each) => each.toLowerCase() === this.as()) ?? 'Recipes');
  protected readonly columns = COLUMNS;
  protected readonly recipes = computed(() => this.shared.estate()?.recipes ?? []);
  protected readonly opened = new OpenedRow({ rows: this.recipes, show: this.show, add: this.add });
  protected readonly note = computed(() => {
    const names = this.shared.names().filter(({ kind }) => kind === 'segment').length;
    return `${counted(this.recipes().length, 'recipe')}, ${counted(names, 'name')} of segments, at all sites`;
  });

  protected look(view: View): void {
    const as = view === 'Recipes' ? null : view.toLowerCase();
    void this.router.navigate([], { relativeTo: this.route, queryParams: { as }, queryParamsHandling: 'merge' });
  }

  protected toSegment({ siteId, segmentId }: { readonly siteId: string; readonly segmentId: string }): void {
    void this.router.navigate(['/sites', siteId, 'lattice'], { queryParams: { show: segmentId } });
  }
}
