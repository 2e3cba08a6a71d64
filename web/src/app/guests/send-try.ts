import { HttpClient } from '@angular/common/http';
import { Component, inject, input, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { MailTried } from '@iron-lattice/core/base';
import { firstValueFrom } from 'rxjs';
import { attempt, type Problem } from '../session/problem';
import { anewFor } from '../ui/anew-for';
import { Cell } from '../ui/cell';
import { TextCell } from '../ui/text-cell';

/** Sends something to somebody, to see whether it goes, and says what came of it. */
@Component({
  selector: 'il-send-try',
  imports: [MatButtonModule, Cell, TextCell],
  template: `
    <il-text-cell
      [label]="label()"
      [for]="for()"
      size="wide"
      [example]="example()"
      [flaw]="problem()?.message"
      [value]="to()"
      (typed)="to.set($event)"
      (entered)="try()"
    >
      <button beside mat-stroked-button type="button" [disabled]="trying() || to() === '' || !ready()" (click)="try()">
        {{ trying() ? 'Sending…' : 'Send' }}
      </button>
    </il-text-cell>
    @if (tried(); as answer) {
      <il-cell label="What came of it" size="full">
        <p role="status" [class.good]="answer.ok" [class.bad]="!answer.ok">{{ answer.words }}</p>
        @if (answer.said) {
          <p class="mono soft">{{ answer.said }}</p>
        }
      </il-cell>
    }
  `,
  styles: `
    :host {
      display: contents;
    }
    p {
      margin: 0;
      overflow-wrap: anywhere;
    }
  `,
})
export class SendTry {
  private readonly http = inject(HttpClient);
  readonly label = input.required<string>();
  /** Id of the field. */
  readonly for = input.required<string>();
  readonly example = input.required<string>();
  /** What is asked to send. */
  readonly url = input.required<string>();
  /** Whether what is said of how is kept: else something else would be tried than what is seen. */
  readonly ready = input.required<boolean>();
  /** Counts changes of how: what came of a try is of how it was. */
  readonly version = input.required<number>();
  protected readonly to = signal('');
  protected readonly trying = signal(false);
  protected readonly problem = signal<Problem | null>(null);
  protected readonly tried = anewFor<MailTried | null>(
    () => this.version(),
    () => null,
  );

  protected async try(): Promise<void> {
    if (this.to() === '' || !this.ready()) return;
    this.tried.set(null);
    await attempt(this.trying, this.problem, async () =>
      this.tried.set(await firstValueFrom(this.http.post<MailTried>(this.url(), { to: this.to() }))),
    );
  }
}
