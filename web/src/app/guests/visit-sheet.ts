import { lastsWords } from '@iron-lattice/core/base';
import { DatePipe } from '@angular/common';
import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { ASK_FIELDS, type VisitView } from '@iron-lattice/core/guests';
import { SessionStore } from '../session/session-store';
import { anewFor } from '../ui/anew-for';
import { Cell } from '../ui/cell';
import { octetsWords } from '../ui/octets-words';
import { Sheet } from '../ui/sheet';
import { GuestsStore } from './guests-store';
import { stateWords } from './visit-words';

/** By how much a visit is made longer at a press, in minutes. */
const [HOUR, DAY] = [60, 1440];

/** One guest’s visit, and what is done with it at once. */
@Component({
  selector: 'il-visit-sheet',
  imports: [DatePipe, MatButtonModule, Cell, Sheet],
  template: `
    <il-sheet [heading]="visit().mac" [note]="note()" (closed)="closed.emit()">
      @if (session.mayChange()) {
        <button actions mat-stroked-button (click)="erase()">
          {{ sure() ? 'Erase this person now' : 'Erase this person…' }}
        </button>
      }
      @if (session.mayChange()) {
        <button actions mat-stroked-button (click)="store.block(visit().mac, !visit().blocked)">
          {{ visit().blocked ? 'Let it try again' : 'Keep this device out' }}
        </button>
      }
      @if (session.mayChange() && goesOn()) {
        <button actions mat-stroked-button (click)="store.extend([visit().id], hour)">1 h longer</button>
      }
      @if (session.mayChange() && goesOn()) {
        <button actions mat-stroked-button (click)="store.extend([visit().id], day)">1 d longer</button>
      }
      @if (session.mayChange() && goesOn()) {
        <button actions mat-flat-button (click)="store.end([visit().id])">End visit</button>
      }
      <div class="cells">
        @if (sure()) {
          <p class="cell full caution" role="alert">
            Every visit of this device, at every site, what its guest said, what it took, the codes it used and what the
            register holds of it are erased, and a visit that goes on ends (GDPR article 17). The journal keeps that
            something was erased, and by whom; whoever is kept out stays so, by the device’s address alone.
          </p>
        }
        <il-cell label="Let in by">{{ by() }}</il-cell>
        @if (visit().who; as who) {
          @for (each of said(); track each.label) {
            <il-cell [label]="each.label">{{ each.words }}</il-cell>
          }
          @if (who.contact) {
            <il-cell [label]="who.contact.startsWith('+') ? 'Phone number' : 'Mail address'">{{ who.contact }}</il-cell>
          }
          @if (who.whom) {
            <il-cell label="Visits">{{ who.whom }}</il-cell>
          }
        }
        <il-cell label="Portal">{{ store.portalName(visit().portalId) }}</il-cell>
        <il-cell label="At">{{ visit().at }}</il-cell>
        @if (visit().host) {
          <il-cell label="Called">{{ visit().host }}</il-cell>
        }
        <il-cell label="Since">{{ visit().begun | date: 'd MMM y HH:mm' }}</il-cell>
        <il-cell [label]="visit().endedAt ? 'Ended' : 'Until'">{{
          visit().endedAt ?? visit().until | date: 'd MMM y HH:mm'
        }}</il-cell>
        <il-cell label="Took">{{ took() }}</il-cell>
        @if (visit().left !== null) {
          <il-cell label="Left today">{{ left() }}</il-cell>
        }
        <il-cell label="Terms agreed to">{{
          visit().terms ? 'version ' + visit().terms : 'nothing was asked'
        }}</il-cell>
      </div>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class VisitSheet {
  protected readonly store = inject(GuestsStore);
  protected readonly session = inject(SessionStore);
  readonly visit = input.required<VisitView>();
  readonly closed = output<void>();
  /** Whether it was asked for once. */
  protected readonly sure = anewFor(
    () => this.visit().id,
    () => false,
  );
  protected readonly hour = HOUR;
  protected readonly day = DAY;
  protected readonly goesOn = computed(() => this.visit().endedAt === null);
  protected readonly note = computed(() => {
    const words = stateWords(this.visit());
    return `${words[0]!.toUpperCase()}${words.slice(1)}. What is done here acts at once.`;
  });
  protected readonly by = computed(() => {
    const { way, code, who } = this.visit();
    if (way === 'accept') return 'pressing that it accepts';
    if (way === 'code') return code ? `the code “${code.name}”` : 'a code that is gone';
    if (way === 'user') return 'a name and a password';
    if (way === 'account') return 'an account elsewhere';
    if (way === 'sponsor') return who?.sponsor ? `${who.sponsor}, who said yes` : 'somebody who said yes';
    return who?.proven ? 'a code that was sent to it' : 'an address that is not proven yet';
  });
  protected readonly said = computed(() =>
    ASK_FIELDS.flatMap((field) => {
      const words = this.visit().who?.said[field];
      return words === undefined
        ? []
        : [{ label: { name: 'Name', company: 'Company', reason: 'Reason' }[field], words }];
    }),
  );
  protected readonly took = computed(
    () => `${octetsWords(this.visit().octets)} in ${lastsWords(Math.floor(this.visit().seconds / 60))}`,
  );
  protected readonly left = computed(() => octetsWords(this.visit().left ?? 0));

  protected async erase(): Promise<void> {
    if (!this.sure()) return this.sure.set(true);
    if (await this.store.erase(this.visit().mac)) this.closed.emit();
  }
}
