import { HttpClient } from '@angular/common/http';
import { Component, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { firstValueFrom } from 'rxjs';
import { Door } from './door';
import { attempt, type Problem } from './problem';
import { TextCell } from '../ui/text-cell';

/** Where somebody who uses the network changes their own password, by the one they have. */
@Component({
  selector: 'il-own-password-page',
  imports: [FormsModule, MatButtonModule, Door, TextCell],
  template: `
    <il-door heading="Your network password">
      @if (done()) {
        <p class="say" role="status">
          <b>{{ name }} has the new password.</b> Devices that have the old one are asked for it when they come next.
        </p>
      } @else {
        <form (ngSubmit)="change()">
          <p class="say soft">The one by which you come onto the network here.</p>
          <il-text-cell
            label="Your name there"
            for="own-name"
            autocomplete="username"
            [value]="name"
            (typed)="name = $event"
          />
          <il-text-cell
            label="The password you have"
            for="own-password"
            kind="password"
            autocomplete="current-password"
            [flaw]="problem()?.flaws?.length ? '' : problem()?.message"
            [value]="password"
            (typed)="password = $event"
          />
          <il-text-cell
            label="The new one"
            for="own-next"
            kind="password"
            autocomplete="new-password"
            hint="8 characters or more; a few words do well"
            [flaw]="problem()?.of('password')"
            [value]="next"
            (typed)="next = $event"
          />
          <button mat-flat-button type="submit" [disabled]="busy()">Change it</button>
        </form>
      }
    </il-door>
  `,
  styles: `
    form {
      display: flex;
      flex-direction: column;
      padding-bottom: 22px;
    }
    .say {
      padding: 0 24px;
    }
    button {
      margin: 12px 24px 0;
    }
  `,
})
export class OwnPasswordPage {
  private readonly http = inject(HttpClient);
  protected name = '';
  protected password = '';
  protected next = '';
  protected readonly problem = signal<Problem | null>(null);
  protected readonly busy = signal(false);
  protected readonly done = signal(false);

  protected async change(): Promise<void> {
    const { name, password, next } = this;
    await attempt(this.busy, this.problem, async () => {
      await firstValueFrom(this.http.post('/api/own-password', { name, password, next }));
      [this.password, this.next] = ['', ''];
      this.done.set(true);
    });
  }
}
