import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { userTable, type UserFields } from '@iron-lattice/core/entry';
import { SiteStore } from '../shell/site-store';
import { counted } from '../ui/counted';
import { Sheet } from '../ui/sheet';
import { saveTable } from '../ui/export-rows';

/** Passwords that are shown one by one; more are in the file. */
const MOST_SHOWN = 12;

/** Passwords that were just drawn: shown this once, since nobody can look them up afterwards. */
@Component({
  selector: 'il-passwords-sheet',
  imports: [MatButtonModule, Sheet],
  template: `
    <il-sheet
      [heading]="heading()"
      note="Shown this once: save or copy it before you close this."
      (closed)="closed.emit()"
    >
      <button actions mat-stroked-button (click)="copy()">Copy</button>
      <button actions mat-flat-button (click)="save()">Save as CSV</button>
      <dl aria-label="Passwords">
        @for (user of shown(); track user.name) {
          <dt>{{ user.name }}</dt>
          <dd class="mono">{{ user.password }}</dd>
        }
      </dl>
      <p class="soft more">
        They change it themselves at <span class="mono">{{ own }}</span>.
      </p>
      @if (users().length > shown().length) {
        <p class="soft more">And {{ users().length - shown().length }} more, in the file.</p>
      }
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    dl {
      margin: 0;
      padding: 10px 14px;
      display: grid;
      grid-template-columns: max-content 1fr;
      gap: 4px 18px;
    }
    dd {
      margin: 0;
      font-size: 15px;
    }
    .more {
      margin: 0;
      padding: 0 14px 10px;
    }
  `,
})
export class PasswordsSheet {
  private readonly site = inject(SiteStore);
  readonly users = input.required<readonly (UserFields & { readonly password: string })[]>();
  readonly closed = output<void>();
  protected readonly own = `${location.origin}/own-password`;
  protected readonly shown = computed(() => this.users().slice(0, MOST_SHOWN));
  protected readonly heading = computed(() => `${counted(this.users().length, 'new password')}`);

  protected async copy(): Promise<void> {
    await this.site.attempt(async () => {
      await navigator.clipboard.writeText(
        this.users()
          .map(({ name, password }) => `${name}\t${password}`)
          .join('\n'),
      );
      this.site.say(`${counted(this.users().length, 'password')} on the clipboard.`);
    });
  }

  protected save = (): Promise<void> => saveTable('passwords', userTable(this.users()));
}
