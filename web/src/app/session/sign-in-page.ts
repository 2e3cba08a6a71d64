import { Component, inject, input, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { Router } from '@angular/router';
import { attempt, type Problem } from './problem';
import { Door } from './door';
import { SessionStore } from './session-store';
import { TextCell } from '../ui/text-cell';

@Component({
  selector: 'il-sign-in-page',
  imports: [FormsModule, MatButtonModule, Door, TextCell],
  template: `
    <il-door heading="Iron Lattice">
      <form (ngSubmit)="signIn()">
        <p class="say soft">Say it once. See its consequences. Roll it out. Walk it.</p>
        <il-text-cell
          label="Mail address"
          for="email"
          kind="email"
          autocomplete="username"
          [value]="email"
          (typed)="email = $event"
        />
        <il-text-cell
          label="Password"
          for="password"
          kind="password"
          autocomplete="current-password"
          [flaw]="problem()?.message"
          [value]="password"
          (typed)="password = $event"
        />
        <button mat-flat-button type="submit" [disabled]="busy()">Sign in</button>
        <p class="soft note">The demo’s sign-ins are printed where the controller was started.</p>
      </form>
    </il-door>
  `,
  styles: `
    form {
      display: flex;
      flex-direction: column;
      padding-bottom: 22px;
    }
    .say,
    .note {
      padding: 0 24px;
    }
    button {
      margin: 12px 24px 0;
    }
    .note {
      margin-top: 14px;
      font-size: 12px;
      line-height: 16px;
    }
  `,
})
export class SignInPage {
  private readonly session = inject(SessionStore);
  private readonly router = inject(Router);
  /** Where to go afterwards. */
  readonly to = input('/');
  protected email = '';
  protected password = '';
  protected readonly problem = signal<Problem | null>(null);
  protected readonly busy = signal(false);

  protected async signIn(): Promise<void> {
    await attempt(this.busy, this.problem, async () => {
      await this.session.signIn(this.email, this.password);
      const to = this.to() ?? '/';
      await this.router.navigateByUrl(to.startsWith('/') && !to.startsWith('//') ? to : '/');
    });
  }
}
