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
import { ComparedList } from './compared-list';
import { RolloutApi } from './rollout-api';

const nameOf = (number: number): string => (number === 0 ? 'as founded' : `revision ${number}`);

/** Two revisions beside each other, and the way back to the earlier one: a site, or the whole estate, as edits of the draft. */
@Component({
  selector: 'il-revision-sheet',
  imports: [MatButtonModule, Cell, ChoiceCell, ComparedList, Sheet],
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
      <il-compared-list
        [compared]="compared.hasValue() ? compared.value() : null"
        [problem]="compared.error()?.message ?? null"
        [of]="from() + ' ' + to()"
        [load]="siteOf"
        [back]="session.mayChange() ? 'back to ' + words(from()) : ''"
        [busy]="busy()"
        (took)="back($event)"
      />
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
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
  protected readonly note = computed(() => {
    if (!this.compared.hasValue()) return '';
    const { sites } = this.compared.value();
    return `${counted(sites.length, 'site')} differ${sites.length === 1 ? 's' : ''} from ${nameOf(this.from())} to ${nameOf(this.to())}`;
  });

  protected readonly siteOf = (siteId: string) => this.api.compareSite(this.from(), this.to(), siteId);

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
