import { Component, computed, inject, input, linkedSignal, output } from '@angular/core';
import { EAP_METHODS, METHOD_WORDS, type Credentials, type EapMethod } from '@iron-lattice/core/radius';
import { SessionStore } from '../session/session-store';
import { ChoiceCell } from '../ui/choice-cell';
import { TextCell } from '../ui/text-cell';

/** Cells that say who a pretend client is where that is asked (802.1X). What is typed is kept nowhere. */
@Component({
  selector: 'il-says-who',
  imports: [ChoiceCell, TextCell],
  template: `
    @if (session.mayChange()) {
      <il-text-cell
        label="Says to be"
        [for]="for() + '-user'"
        example="marn.ellis"
        hint="Empty: it does not say"
        [mono]="true"
        [most]="253"
        [value]="user()"
        (typed)="user.set($event)"
        (done)="tell()"
      />
      @if (user().trim() !== '') {
        <il-text-cell
          label="With the password"
          [for]="for() + '-password'"
          kind="password"
          autocomplete="off"
          hint="Really tried, and kept nowhere"
          [most]="128"
          [value]="password()"
          (typed)="password.set($event)"
          (done)="tell()"
        />
        <il-choice-cell
          label="By"
          [for]="for() + '-method'"
          [options]="methods"
          [value]="method()"
          (chosen)="method.set($event); tell()"
        />
      }
    }
  `,
  styles: ':host { display: contents; }',
})
export class SaysWho {
  protected readonly session = inject(SessionStore);
  readonly for = input.required<string>();
  /** Who it says to be, as it was told last; null: it does not say. */
  readonly value = input.required<Credentials | null>();
  readonly said = output<Credentials | null>();
  protected readonly user = linkedSignal(() => this.value()?.user ?? '');
  protected readonly password = linkedSignal(() => this.value()?.password ?? '');
  protected readonly method = linkedSignal(() => (this.value()?.method ?? 'eap-ttls') as EapMethod);
  protected readonly methods = EAP_METHODS.map((value) => ({ value, label: METHOD_WORDS[value] }));
  private readonly credentials = computed((): Credentials | null => {
    const user = this.user().trim();
    return user === '' ? null : { method: this.method(), user, password: this.password() };
  });

  protected tell(): void {
    this.said.emit(this.credentials());
  }
}
