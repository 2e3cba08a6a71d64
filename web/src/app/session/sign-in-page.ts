import { Component, inject, input, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInputModule } from '@angular/material/input';
import { Router } from '@angular/router';
import { attempt, type Problem } from './problem';
import { Mark } from '../ui/mark';
import { SessionStore } from './session-store';

@Component({
  selector: 'il-sign-in-page',
  imports: [FormsModule, MatButtonModule, MatFormFieldModule, MatInputModule, Mark],
  template: `
    <main>
      <form (ngSubmit)="signIn()">
        <header>
          <il-mark />
          <h1>Iron Lattice</h1>
        </header>
        <p class="say">Say it once. See its consequences. Roll it out. Walk it.</p>
        <label for="email">Mail address</label>
        <mat-form-field>
          <input matInput id="email" name="email" type="email" autocomplete="username" required [(ngModel)]="email" />
        </mat-form-field>
        <label for="password">Password</label>
        <mat-form-field>
          <input
            matInput
            id="password"
            name="password"
            type="password"
            autocomplete="current-password"
            required
            [(ngModel)]="password"
          />
        </mat-form-field>
        @if (problem()) {
          <p class="flaw" role="alert">{{ problem()?.message }}</p>
        }
        <button mat-flat-button type="submit" [disabled]="busy()">Sign in</button>
        <p class="soft note">The demo’s sign-ins are printed where the controller was started.</p>
      </form>
    </main>
  `,
  styles: `
    main {
      min-height: 100vh;
      display: grid;
      place-items: center;
      padding: 16px;
      background-image:
        linear-gradient(var(--rule) 1px, transparent 1px), linear-gradient(90deg, var(--rule) 1px, transparent 1px);
      background-size: 44px 44px;
    }
    form {
      width: min(360px, 100%);
      background: var(--sheet);
      border: 1px solid var(--ink);
      border-top-width: 3px;
      padding: 22px 24px;
      display: flex;
      flex-direction: column;
    }
    header {
      display: flex;
      align-items: center;
      gap: 10px;
    }
    .say {
      color: var(--soft);
      margin: 6px 0 16px;
    }
    label {
      font:
        500 12px/16px 'Barlow Semi Condensed',
        Barlow;
      color: var(--soft);
      margin-top: 8px;
    }
    button {
      margin-top: 16px;
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
