import { DatePipe } from '@angular/common';
import { Component, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MOST_DRAFT_NAME, MOST_DRAFT_TEXT, type DraftView } from '@iron-lattice/core/assess';
import { SessionStore } from '../session/session-store';
import { EditForm } from '../shell/edit-form';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { TextCell } from '../ui/text-cell';
import { RolloutApi } from './rollout-api';

interface Said {
  readonly name: string;
  readonly description: string;
}

/** What the draft in front is called and for, and who began it. */
@Component({
  selector: 'il-draft-form',
  imports: [DatePipe, MatButtonModule, Cell, TextCell],
  template: `
    @if (store.draft(); as draft) {
      <form class="cells" (submit)="save(); $event.preventDefault()">
        <il-text-cell
          label="Draft"
          [most]="mostName"
          for="draft-name"
          [readonly]="!mayChange()"
          [value]="form.text().name"
          (typed)="form.put({ name: $event })"
        />
        <il-text-cell
          label="What it is for"
          [most]="mostText"
          for="draft-description"
          size="wide"
          example="why, for whom, which request"
          [readonly]="!mayChange()"
          [value]="form.text().description"
          (typed)="form.put({ description: $event })"
          [flaw]="form.other([])"
        />
        <il-cell label="Begun by">
          <div class="value">
            @if (form.differs() && mayChange()) {
              <button mat-stroked-button type="submit" [disabled]="form.busy() || form.text().name.trim() === ''">
                Save
              </button>
            } @else {
              {{ draft.by }}, {{ draft.at | date: 'd MMM, HH:mm' }}
            }
          </div>
        </il-cell>
      </form>
    }
  `,
})
export class DraftForm {
  private readonly api = inject(RolloutApi);
  private readonly session = inject(SessionStore);
  protected readonly store = inject(SiteStore);
  protected readonly mostName = MOST_DRAFT_NAME;
  protected readonly mostText = MOST_DRAFT_TEXT;
  protected readonly form = new EditForm<DraftView, Said>({
    kept: () => this.store.draft(),
    idOf: ({ id }) => id,
    textOf: (draft) => ({ name: draft?.name ?? '', description: draft?.description ?? '' }),
  });
  protected readonly mayChange = (): boolean => this.session.mayChange() && this.store.draft()?.state === 'open';

  protected async save(): Promise<void> {
    const draft = this.store.draft();
    if (!draft) return;
    await this.form.send(async () => {
      await this.api.describe(draft.id, { from: this.form.before(), to: this.form.text() });
      await this.store.reload();
    });
  }
}
