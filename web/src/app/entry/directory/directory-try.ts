import { Component, computed, inject, input, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { DIRECTORY_ADVICE, type DirectoryFields, type DirectoryTried } from '@iron-lattice/core/entry';
import { attempt, type Problem } from '../../session/problem';
import { anewFor } from '../../ui/anew-for';
import { TextCell } from '../../ui/text-cell';
import { UsersStore } from '../users-store';
import { DirectoryStore } from './directory-store';

/** Asks a directory as it stands on the screen for somebody, and shows all that was asked and answered. */
@Component({
  selector: 'il-directory-try',
  imports: [MatButtonModule, TextCell],
  template: `
    <il-text-cell
      label="Try it with somebody who signs in as"
      for="directory-name"
      [mono]="true"
      example="ebba.strand"
      [value]="name()"
      (typed)="name.set($event)"
      (entered)="ask()"
    />
    <il-text-cell
      label="and the password"
      for="directory-password"
      kind="password"
      hint="Empty: they are looked for alone"
      [value]="password()"
      (typed)="password.set($event)"
      (entered)="ask()"
    >
      <button beside mat-stroked-button type="button" [disabled]="busy() || name().trim() === ''" (click)="ask()">
        Try it
      </button>
    </il-text-cell>
    @if (problem(); as problem) {
      <p class="cell full flaw" role="alert">{{ problem.message }}</p>
    }
    @if (tried(); as tried) {
      <div class="cell full" role="status">
        <p [class.good]="good()" [class.flaw]="!good()">
          {{ tried.words }}
          @if (tried.fault; as fault) {
            {{ advice[fault] }}
          } @else if (tried.found) {
            {{ classWords() }}
          }
        </p>
        <p class="soft">{{ rightsWords() }}</p>
        <ol aria-label="What was asked and answered">
          @for (step of tried.steps; track $index) {
            <li>
              <span [class.flaw]="!step.ok">{{ step.asked }}</span> <span class="soft mono">{{ step.ms }} ms</span>
              @for (line of step.said; track $index) {
                <div class="mono said">{{ line }}</div>
              }
            </li>
          }
        </ol>
      </div>
    }
  `,
  styles: `
    :host {
      display: contents;
    }
    p {
      margin: 0 0 4px;
    }
    .good {
      color: var(--good);
    }
    ol {
      margin: 0;
      padding-left: 20px;
    }
    .said {
      white-space: pre-wrap;
      overflow-wrap: anywhere;
      color: var(--soft);
    }
  `,
})
export class DirectoryTrySheet {
  private readonly store = inject(DirectoryStore);
  private readonly users = inject(UsersStore);
  readonly fields = input.required<DirectoryFields>();
  /** Of the account; null: the one that is kept. */
  readonly secret = input.required<string | null>();
  protected readonly advice = DIRECTORY_ADVICE;
  protected readonly name = signal('');
  protected readonly password = signal('');
  protected readonly busy = signal(false);
  private readonly of = (): string => JSON.stringify([this.fields(), this.secret(), this.name(), this.password()]);
  protected readonly problem = anewFor<Problem | null>(this.of, () => null);
  protected readonly tried = anewFor<DirectoryTried | null>(this.of, () => null);
  protected readonly good = computed(() => {
    const tried = this.tried();
    return tried?.fault === null && tried.found !== null && tried.right !== false;
  });
  protected readonly classWords = computed(() => {
    const groups = this.tried()?.found?.groups ?? [];
    if (groups.length === 0) return 'They have no group, and so no class.';
    const [first, ...more] = this.users.classesOfGroups(groups);
    const lead = first === undefined ? 'to no class' : `to ${[first, ...more].join(', ')}`;
    return `Their groups ${groups.join(', ')} lead ${lead}${this.users.placeWords()}.`;
  });
  protected readonly rightsWords = computed(() => {
    const rights = this.tried()?.rights;
    if (!rights) return '';
    const more = [
      ...(rights.passwords ? ['the account may look at what passwords are kept as, which it should not'] : []),
      ...(rights.anybody ? ['anybody may search, without an account'] : []),
    ];
    return more.length === 0
      ? 'The account may no more than it has to, as far as can be seen.'
      : `Too much: ${more.join('; ')}.`;
  });

  protected async ask(): Promise<void> {
    if (this.busy() || this.name().trim() === '') return;
    await attempt(this.busy, this.problem, async () => {
      const [fields, secret, name, password] = [this.fields(), this.secret(), this.name().trim(), this.password()];
      const tried = await this.store.try({ fields, secret, name, password });
      this.tried.set(tried);
    });
  }
}
