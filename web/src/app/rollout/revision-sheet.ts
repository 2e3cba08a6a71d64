import { Component, computed, inject, input, output, resource, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { RevisionView } from '@iron-lattice/core/rollout';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { anewFor } from '../ui/anew-for';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { counted } from '../ui/counted';
import { Sheet } from '../ui/sheet';
import { ObjectList } from './object-list';
import { RevisionSite } from './revision-site';
import { RolloutApi } from './rollout-api';

/** Sites that are shown at once. */
const MOST_SITES = 200;
const nameOf = (number: number): string => (number === 0 ? 'as founded' : `revision ${number}`);

/** Two revisions beside each other, and the way back to the earlier one: a site, or the whole estate, as edits of the draft. */
@Component({
  selector: 'il-revision-sheet',
  imports: [MatButtonModule, Cell, ChoiceCell, ObjectList, RevisionSite, Sheet],
  template: `
    <il-sheet [heading]="'Revision ' + number()" [note]="note()" (closed)="closed.emit()">
      @if (session.mayChange()) {
        <button actions mat-stroked-button [disabled]="busy()" (click)="back(null)">
          Whole estate back to {{ words(from()) }}
        </button>
      }
      <div class="cells">
        <il-choice-cell
          label="What changed since"
          for="revision-from"
          [options]="choices()"
          [value]="from()"
          (chosen)="from.set($event)"
        />
        <il-choice-cell
          label="Until"
          for="revision-to"
          [options]="choices()"
          [value]="to()"
          (chosen)="to.set($event)"
        />
        <il-cell label="A way back is edits of the draft" size="wide">
          <div class="value">Seen with its consequences, undone or rolled out like any other.</div>
        </il-cell>
      </div>
      @if (compared.hasValue()) {
        @if (compared.value().shared.length > 0) {
          <h3>What sites share</h3>
          <il-object-list [objects]="compared.value().shared" />
        }
        @for (site of compared.value().sites.slice(0, most); track site.siteId) {
          <details (toggle)="toggle(site.siteId, $any($event.target).open)">
            <summary>
              <b>{{ site.name }}</b>
              <span class="soft">{{
                site.objects > 0 ? counted(site.objects, 'object') + ' of its own' : 'by what it shares'
              }}</span>
            </summary>
            @if (open().has(site.siteId)) {
              @if (session.mayChange() && site.objects > 0) {
                <button mat-stroked-button class="back" [disabled]="busy()" (click)="back(site.siteId)">
                  {{ site.name }} back to {{ words(from()) }}
                </button>
              }
              <il-revision-site [of]="from() + ' ' + to() + ' ' + site.siteId" [load]="siteOf(site.siteId)" />
            }
          </details>
        }
        @if (compared.value().sites.length > most) {
          <p class="soft line">and {{ counted(compared.value().sites.length - most, 'site') }} more</p>
        }
        @if (compared.value().sites.length === 0 && compared.value().shared.length === 0) {
          <p class="soft line">They say the same everywhere.</p>
        }
      } @else if (compared.error(); as problem) {
        <p class="bad line" role="alert">{{ $any(problem).message }}</p>
      } @else {
        <p class="soft line" role="status">Being compared…</p>
      }
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    h3,
    .line {
      padding: 8px 14px 2px;
      margin: 0;
    }
    details {
      border-top: 1px solid var(--rule);
    }
    summary {
      display: flex;
      flex-wrap: wrap;
      gap: 4px 12px;
      padding: 6px 14px;
      cursor: pointer;
    }
    .back {
      margin: 2px 14px 6px;
    }
  `,
})
export class RevisionSheet {
  private readonly api = inject(RolloutApi);
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly number = input.required<number>();
  readonly revisions = input.required<readonly RevisionView[]>();
  readonly closed = output<void>();
  protected readonly counted = counted;
  protected readonly words = nameOf;
  protected readonly most = MOST_SITES;
  protected readonly busy = signal(false);
  protected readonly from = anewFor<number>(this.number, () => Math.max(0, this.number() - 1));
  protected readonly to = anewFor<number>(this.number, () => this.number());
  protected readonly choices = computed((): readonly Choice[] => [
    ...this.revisions().map(({ number, name }) => ({ value: number, label: `revision ${number}, ${name}` })),
    { value: 0, label: 'as founded' },
  ]);
  protected readonly compared = resource({
    params: () => ({ from: this.from(), to: this.to() }),
    loader: ({ params }) => this.api.compare(params.from, params.to),
  });
  /** Sites that are looked into: what is not looked at is not compared. */
  protected readonly open = anewFor<ReadonlySet<string>>(
    () => `${this.from()} ${this.to()}`,
    () => new Set(),
  );
  protected readonly note = computed(() => {
    if (!this.compared.hasValue()) return '';
    const { sites } = this.compared.value();
    return `${counted(sites.length, 'site')} differ${sites.length === 1 ? 's' : ''} from ${nameOf(this.from())} to ${nameOf(this.to())}`;
  });

  protected readonly siteOf = (siteId: string) => () => this.api.compareSite(this.from(), this.to(), siteId);

  protected toggle(siteId: string, open: boolean): void {
    if (open) this.open.update((all) => new Set([...all, siteId]));
  }

  protected async back(siteId: string | null): Promise<void> {
    const draft = this.store.draft();
    if (!draft) return;
    this.busy.set(true);
    const before = draft.edits;
    await this.store.attempt(async () => {
      const { name, edits } = await this.api.back(draft.id, this.from(), siteId);
      await this.store.reload();
      this.store.say(`${counted(edits - before, 'edit')} put into ${name}. Look at them, then roll it out.`);
    });
    this.busy.set(false);
  }
}
