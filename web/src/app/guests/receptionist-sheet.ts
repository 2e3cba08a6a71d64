import { Component, computed, effect, inject, input, output, signal, untracked } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import type { ReceptionistFields, ReceptionistView } from '@iron-lattice/core/guests';
import { SessionStore } from '../session/session-store';
import { EditForm } from '../shell/edit-form';
import { EstateStore } from '../shell/estate-store';
import { SiteStore } from '../shell/site-store';
import { ChoiceCell } from '../ui/choice-cell';
import { Cell } from '../ui/cell';
import { counted } from '../ui/counted';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';
import { ReceptionStore } from './reception-store';

/** Somebody at a reception, new or there already: what is said here acts at once. */
@Component({
  selector: 'il-receptionist-sheet',
  imports: [FormsModule, MatButtonModule, Cell, ChoiceCell, Sheet, TextCell],
  template: `
    <il-sheet
      [focusFirst]="person() === null"
      [heading]="person()?.name ?? 'New person at a reception'"
      note="They sign in at this controller, and come to a screen with the codes and visits of their sites alone."
      (closed)="closed.emit()"
    >
      @if (session.mayChange() && person(); as one) {
        <button actions mat-stroked-button (click)="remove(one.id)">
          {{ sure() ? 'Take away for good' : 'Take away' }}
        </button>
      }
      @if (session.mayChange() && person(); as one) {
        <button actions mat-stroked-button (click)="renew(one)">New password</button>
      }
      @if (session.mayChange()) {
        <button actions mat-flat-button type="submit" form="receptionist" [disabled]="form.busy() || !form.differs()">
          {{ person() ? 'Change it now' : 'Add them' }}
        </button>
      }
      <form id="receptionist" (ngSubmit)="keep()">
        <div class="cells">
          @if (drawn(); as one) {
            <il-cell label="Their password, shown this once" size="wide">
              <b class="mono password">{{ one.password }}</b>
              <span class="soft">for {{ one.email }}</span>
            </il-cell>
          }
          <il-text-cell
            label="Name"
            for="receptionist-name"
            [most]="80"
            example="Rin Vale"
            [flaw]="form.problem()?.of('name')"
            [readonly]="!session.mayChange()"
            [value]="form.text().name"
            (typed)="form.put({ name: $event })"
          />
          <il-text-cell
            label="Mail address, to sign in by"
            for="receptionist-email"
            [most]="200"
            example="rin@skerrow.example"
            [flaw]="form.problem()?.of('email')"
            [readonly]="!session.mayChange()"
            [value]="form.text().email"
            (typed)="form.put({ email: $event })"
          />
          <il-choice-cell
            label="Looks after guests of"
            for="receptionist-sites"
            size="wide"
            example="choose sites"
            [several]="true"
            [hint]="counted(form.text().siteIds.length, 'site')"
            [flaw]="form.problem()?.of('siteIds')"
            [options]="estate.siteChoices()"
            [disabled]="!session.mayChange()"
            [value]="form.text().siteIds"
            (chosen)="form.put({ siteIds: $event })"
          />
          @if (sure()) {
            <p class="cell full caution" role="alert">
              They are signed out at once and cannot sign in again. Codes that they made stay as they are.
            </p>
          }
          @if (form.other(['name', 'email', 'siteIds']); as message) {
            <p class="cell full flaw" role="alert">{{ message }}</p>
          }
        </div>
      </form>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    .password {
      font-size: 20px;
      letter-spacing: 0.06em;
      margin-right: 10px;
      user-select: all;
    }
  `,
})
export class ReceptionistSheet {
  protected readonly store = inject(ReceptionStore);
  protected readonly session = inject(SessionStore);
  protected readonly estate = inject(EstateStore);
  private readonly site = inject(SiteStore);
  /** Null for a new one. */
  readonly person = input.required<ReceptionistView | null>();
  readonly closed = output<void>();
  readonly kept = output<string>();
  protected readonly counted = counted;
  /** Whether they were asked to be taken away once. */
  protected readonly sure = signal(false);
  protected readonly form = new EditForm<ReceptionistView, ReceptionistFields>({
    kept: () => this.person(),
    idOf: ({ id }) => id,
    textOf: (one) => {
      const siteId = this.site.siteId();
      return {
        name: one?.name ?? '',
        email: one?.email ?? '',
        siteIds: one?.siteIds ?? (siteId === null ? [] : [siteId]),
      };
    },
  });
  /** The password that was just drawn for the person in front. */
  protected readonly drawn = computed(() => {
    const drawn = this.store.drawn();
    return drawn?.email.toLowerCase() === this.person()?.email ? drawn : null;
  });

  constructor() {
    effect(() => {
      this.person();
      untracked(() => this.sure.set(false));
    });
  }

  protected async keep(): Promise<void> {
    const now = this.person();
    await this.form.send(async () => {
      if (now)
        await this.store.set(
          now.id,
          this.form.change(this.form.text(), ({ name, email, siteIds }) => ({ name, email, siteIds })),
        );
      else this.kept.emit(await this.store.add(this.form.text()));
    });
  }

  protected renew(one: ReceptionistView): Promise<boolean> {
    return this.form.send(() => this.store.renew(one));
  }

  protected async remove(id: string): Promise<void> {
    if (!this.sure()) return this.sure.set(true);
    if (await this.form.send(() => this.store.remove(id))) this.closed.emit();
  }
}
