import { HttpClient } from '@angular/common/http';
import { Component, inject, input, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { MailTried } from '@iron-lattice/core/base';
import { firstValueFrom } from 'rxjs';
import { attempt, type Problem } from '../session/problem';
import { anewFor } from '../ui/anew-for';
import { TextCell } from '../ui/text-cell';

/** Sends a visit code to a guest, by mail or text message. */
@Component({
  selector: 'il-send-code',
  imports: [MatButtonModule, TextCell],
  template: `
    <il-text-cell
      label="Send it to"
      for="code-send"
      size="wide"
      example="A mail address or a phone number"
      autocomplete="off"
      [flaw]="problem()?.message"
      [value]="to()"
      (typed)="put($event)"
      (entered)="send()"
    >
      <button beside mat-stroked-button type="button" [disabled]="busy() || to() === ''" (click)="send()">
        {{ busy() ? 'Sending…' : 'Send' }}
      </button>
      @if (tried(); as answer) {
        <p role="status" [class.good]="answer.ok" [class.bad]="!answer.ok">{{ answer.words }}</p>
      }
    </il-text-cell>
  `,
  styles: `
    :host {
      display: contents;
    }
    p {
      margin: 4px 0 0;
    }
  `,
})
export class SendCode {
  private readonly http = inject(HttpClient);
  readonly code = input.required<string>();
  /** Where codes are: those of reception, or all. */
  readonly at = input<'/api/codes' | '/api/reception/codes'>('/api/codes');
  protected readonly to = anewFor(
    () => this.code(),
    () => '',
  );
  protected readonly tried = anewFor<MailTried | null>(
    () => this.code(),
    () => null,
  );
  protected readonly problem = anewFor<Problem | null>(
    () => this.code(),
    () => null,
  );
  protected readonly busy = signal(false);

  protected put(to: string): void {
    this.to.set(to);
    this.tried.set(null);
    this.problem.set(null);
  }

  protected async send(): Promise<void> {
    if (this.busy() || this.to() === '') return;
    this.tried.set(null);
    const url = `${this.at()}/${this.code()}/send`;
    await attempt(this.busy, this.problem, async () =>
      this.tried.set(await firstValueFrom(this.http.post<MailTried>(url, { to: this.to() }))),
    );
  }
}
