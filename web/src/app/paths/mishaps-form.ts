import { Component, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MISHAPS } from '@iron-lattice/core/paths';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { TextCell } from '../ui/text-cell';
import { AMOUNT_WORDS, MISHAP_WORDS, type MishapText } from './mishap-text';

/** What happens to which uplink, and when; as it is typed. */
@Component({
  selector: 'il-mishaps-form',
  imports: [MatButtonModule, ChoiceCell, TextCell],
  template: `
    @for (one of mishaps(); track $index; let i = $index) {
      <div class="cells mishap">
        @if (one.what !== 'off') {
          <il-choice-cell
            label="Uplink"
            [for]="'mishap-port-' + i"
            [options]="ports()"
            [value]="one.port"
            (chosen)="put(i, { port: $event })"
          />
        }
        <il-choice-cell
          label="What happens"
          [for]="'mishap-what-' + i"
          [options]="whats"
          [value]="one.what"
          (chosen)="put(i, { what: $event })"
        />
        <il-text-cell
          label="From, s"
          [for]="'mishap-from-' + i"
          [mono]="true"
          [value]="one.from"
          (typed)="put(i, { from: $event })"
        />
        <il-text-cell
          label="To, s"
          [for]="'mishap-to-' + i"
          [mono]="true"
          [flaw]="flaws()[i]"
          [value]="one.to"
          (typed)="put(i, { to: $event })"
        />
        @if (amountOf(one); as amount) {
          <il-text-cell
            [label]="amount"
            [for]="'mishap-amount-' + i"
            [mono]="true"
            [value]="one.amount"
            (typed)="put(i, { amount: $event })"
          />
        }
        @if (one.what === 'target') {
          <il-text-cell
            label="Which target"
            [for]="'mishap-target-' + i"
            [mono]="true"
            example="gateway"
            [value]="one.target"
            (typed)="put(i, { target: $event })"
          />
        }
        <div class="cell">
          <button mat-button type="button" [attr.aria-label]="'Take mishap ' + (i + 1) + ' away'" (click)="take(i)">
            Take away
          </button>
        </div>
      </div>
    }
  `,
  styles: `
    .mishap {
      border-top: 1px solid var(--rule);
    }
    .mishap .cell button {
      margin-top: 16px;
    }
  `,
})
export class MishapsForm {
  readonly mishaps = input.required<readonly MishapText[]>();
  /** What is wrong with each; empty: nothing. */
  readonly flaws = input.required<readonly string[]>();
  readonly ports = input.required<readonly Choice[]>();
  readonly changed = output<readonly MishapText[]>();
  protected readonly whats: readonly Choice[] = MISHAPS.map((value) => ({ value, label: MISHAP_WORDS[value] }));

  protected amountOf = ({ what }: MishapText): string => AMOUNT_WORDS[what];

  protected put(at: number, change: Partial<MishapText>): void {
    const [first] = this.ports();
    this.changed.emit(
      this.mishaps().map((one, i) => {
        if (i !== at) return one;
        const next = { ...one, ...change };
        // What happened to the gateway itself happened to no uplink.
        return next.what !== 'off' && next.port === '' && first ? { ...next, port: String(first.value) } : next;
      }),
    );
  }

  protected take(at: number): void {
    this.changed.emit(this.mishaps().filter((_, i) => i !== at));
  }
}
