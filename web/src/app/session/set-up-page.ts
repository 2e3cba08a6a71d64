import { HttpClient } from '@angular/common/http';
import { Component, computed, effect, inject, resource, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { Router } from '@angular/router';
import { checkPassword, type PersonView } from '@iron-lattice/core/base';
import { windowWords, type UpdateWindow } from '@iron-lattice/core/firmware';
import { isTimeZone, type SetUpState } from '@iron-lattice/core/intake';
import { COUNTRIES, countryByName, radioWords } from '@iron-lattice/core/regulation';
import { firstValueFrom } from 'rxjs';
import { attempt, Problem } from './problem';
import { Cell } from '../ui/cell';
import { Door } from './door';
import { WindowField } from '../ui/window-field';
import { SessionStore } from './session-store';
import { TextCell } from '../ui/text-cell';

const STEPS = ['Estate', 'You', 'Updates', 'Summary'] as const;
const ZONES = Intl.supportedValuesOf('timeZone');

/** The first start of an empty controller: what cannot be derived is asked, on one sheet after the other. */
@Component({
  selector: 'il-set-up-page',
  imports: [FormsModule, MatButtonModule, Cell, Door, WindowField, TextCell],
  template: `
    <il-door heading="Set up Iron Lattice" [wide]="true">
      <form (ngSubmit)="next()" (input)="problem.set(null)">
        <ol class="steps" aria-label="Steps">
          @for (each of steps; track each) {
            <li
              [class.here]="$index === step()"
              [class.past]="$index < step()"
              [attr.aria-current]="$index === step() ? 'step' : null"
            >
              {{ each }}
            </li>
          }
        </ol>
        @switch (step()) {
          @case (0) {
            <il-text-cell
              label="What is the whole of your network called?"
              for="estate"
              hint="Your organisation’s name does well."
              [flaw]="problem()?.of('estate')"
              [value]="estate"
              (typed)="estate = $event"
            />
            <il-text-cell
              label="Country"
              for="country"
              [hint]="radio()"
              [flaw]="problem()?.of('country')"
              [offers]="names"
              [value]="country()"
              (typed)="country.set($event)"
            />
            <il-text-cell
              label="Time zone"
              for="zone"
              [flaw]="problem()?.of('timeZone')"
              [offers]="allZones"
              [value]="timeZone()"
              (typed)="timeZone.set($event)"
            />
          }
          @case (1) {
            <il-text-cell
              label="Your name"
              for="name"
              [flaw]="problem()?.of('name')"
              autocomplete="name"
              [value]="name"
              (typed)="name = $event"
            />
            <il-text-cell
              label="Your mail address"
              for="email"
              hint="You sign in with it."
              [flaw]="problem()?.of('email')"
              kind="email"
              autocomplete="username"
              [value]="email"
              (typed)="email = $event"
            />
            <il-text-cell
              label="Password"
              for="password"
              [hint]="judged()"
              [flaw]="problem()?.of('password')"
              [kind]="seen() ? 'text' : 'password'"
              autocomplete="new-password"
              [value]="password()"
              (typed)="password.set($event)"
              ><button mat-button type="button" (click)="seen.set(!seen())">
                {{ seen() ? 'Hide it' : 'Show it' }}
              </button></il-text-cell
            >
          }
          @case (2) {
            <il-cell
              label="When may devices restart for new firmware?"
              hint="Once a week, in the time zone of each site. A site can have a window of its own."
              [flaw]="problem()?.of('minutes') || problem()?.of('from')"
            >
              <il-window-field [window]="window()" (changed)="window.set($event)" />
            </il-cell>
          }
          @default {
            <dl>
              <dt>Estate</dt>
              <dd>{{ estate }}</dd>
              <dt>Country</dt>
              <dd>
                {{ country() }}<br /><span class="soft">{{ radio() }}</span>
              </dd>
              <dt>Time zone</dt>
              <dd>{{ timeZone() }}</dd>
              <dt>First administrator</dt>
              <dd>{{ name }}, {{ email }}</dd>
              <dt>Devices may restart</dt>
              <dd>{{ words() }}</dd>
              <dt>Devices find this controller at</dt>
              <dd class="mono">{{ state.hasValue() ? state.value().address : '' }}</dd>
            </dl>
          }
        }
        @if (problem(); as refused) {
          @if (refused.flaws.length === 0 || step() === 3) {
            <p class="flaw" role="alert">{{ refused.message }}</p>
          }
        }
        <footer>
          @if (step() > 0) {
            <button mat-button type="button" (click)="back()">Back</button>
          }
          <span class="grow"></span>
          <button mat-flat-button type="submit" [disabled]="busy()">
            {{ step() === 3 ? 'Found the estate' : 'Next' }}
          </button>
        </footer>
      </form>
    </il-door>
  `,
  styles: `
    .steps {
      display: flex;
      list-style: none;
      margin: 0;
      padding: 4px 24px 10px;
      border-bottom: 1px solid var(--rule);
      gap: 18px;
      color: var(--soft);
    }
    .steps .here {
      color: var(--ink);
      font-weight: 600;
      box-shadow: inset 0 -2px 0 var(--iron);
    }
    .steps .past {
      color: var(--good);
    }
    dl {
      display: grid;
      grid-template-columns: 150px 1fr;
      gap: 6px 12px;
      padding: 14px 24px 0;
      margin: 0;
    }
    dt {
      color: var(--soft);
    }
    dd {
      margin: 0;
      overflow-wrap: anywhere;
    }
    footer {
      display: flex;
      padding: 14px 24px 18px;
    }
    form > .flaw {
      padding: 8px 24px 0;
    }
    @media (max-width: 480px) {
      dl {
        grid-template-columns: 1fr;
        gap: 2px;
      }
      dd {
        margin-bottom: 6px;
      }
    }
  `,
})
export class SetUpPage {
  private readonly http = inject(HttpClient);
  private readonly router = inject(Router);
  private readonly session = inject(SessionStore);
  protected readonly steps = STEPS;
  protected readonly names = COUNTRIES.map((country) => country.name);
  protected readonly allZones = ZONES;
  protected readonly step = signal(0);
  protected readonly busy = signal(false);
  protected readonly seen = signal(false);
  protected readonly problem = signal<Problem | null>(null);
  protected estate = '';
  protected readonly timeZone = signal(Intl.DateTimeFormat().resolvedOptions().timeZone);
  protected readonly country = signal(
    COUNTRIES.find(({ code }) => code === new Intl.Locale(navigator.language).region)?.name ?? '',
  );
  protected name = '';
  protected email = '';
  protected readonly password = signal('');
  protected readonly window = signal<UpdateWindow>({ day: 0, from: 180, minutes: 120 });
  protected readonly words = computed(() => windowWords(this.window()));
  protected readonly state = resource({ loader: () => firstValueFrom(this.http.get<SetUpState>('/api/set-up')) });
  protected readonly judged = computed(() => {
    const password = this.password();
    if (password === '') return '12 characters or more; a few words do well.';
    const [flaw] = checkPassword(password, [this.name, this.email, this.estate]);
    return flaw ? flaw.message : 'That is a strong one.';
  });

  constructor() {
    effect(() => {
      // Once is enough: a controller that was set up is signed in to.
      if (this.state.hasValue() && !this.state.value().needed) void this.router.navigateByUrl('/');
    });
  }

  protected radio(): string {
    const code = countryByName(this.country());
    return code ? radioWords(code) : 'Decides which channels and powers are legal.';
  }

  protected back(): void {
    this.problem.set(null);
    this.step.update((step) => step - 1);
  }

  protected async next(): Promise<void> {
    this.problem.set(null);
    if (this.step() < 3) {
      const flaws = this.flawsHere();
      if (flaws === null) this.step.update((step) => step + 1);
      else this.problem.set(flaws);
      return;
    }
    const done = await attempt(this.busy, this.problem, async () => {
      const { estate, name, email } = this;
      const [country, timeZone] = [this.country(), this.timeZone()];
      const request = { estate, country, timeZone, name, email, password: this.password(), window: this.window() };
      this.session.person.set(await firstValueFrom(this.http.post<PersonView>('/api/set-up', request)));
      await this.router.navigateByUrl('/');
    });
    if (done) return;
    const fields = this.problem()!.flaws.map((flaw) => flaw.field);
    if (fields.some((field) => ['estate', 'country', 'timeZone'].includes(field ?? ''))) this.step.set(0);
    else if (fields.some((field) => ['name', 'email', 'password'].includes(field ?? ''))) this.step.set(1);
    else if (fields.length > 0) this.step.set(2);
  }

  /** What is missing on this step; the controller judges all of it once more. */
  private flawsHere(): Problem | null {
    const flaws: { code: string; message: string; field: string }[] = [];
    const add = (field: string, message: string): void => void flaws.push({ code: 'set-up', message, field });
    if (this.step() === 0) {
      if (this.estate.trim() === '') add('estate', 'Give the estate a name.');
      if (!countryByName(this.country())) add('country', 'Choose a country, or give its two letters.');
      if (!isTimeZone(this.timeZone())) add('timeZone', 'Choose a time zone, such as Europe/Lisbon.');
    } else if (this.step() === 1) {
      if (this.name.trim() === '') add('name', 'Give your name.');
      if (!/^[^\s@]+@[^\s@]+\.[^\s@]+$/.test(this.email.trim())) add('email', 'Give a mail address.');
      const [flaw] = checkPassword(this.password(), [this.name, this.email, this.estate]);
      if (flaw) add('password', flaw.message);
    }
    return flaws.length === 0 ? null : new Problem('set-up', flaws[0]!.message, flaws);
  }
}
