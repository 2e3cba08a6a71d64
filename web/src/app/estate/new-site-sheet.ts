import { Component, computed, effect, inject, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatAutocompleteModule } from '@angular/material/autocomplete';
import { MatButtonModule } from '@angular/material/button';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInputModule } from '@angular/material/input';
import { readTags, type SiteView } from '@iron-lattice/core/intake';
import { EstateStore } from '../shell/estate-store';
import { attempt, type Problem } from '../session/problem';
import { Sheet } from '../ui/sheet';
import { COUNTRIES, countryByName } from '@iron-lattice/core/regulation';

const TIME_ZONES = Intl.supportedValuesOf('timeZone');

/** A new site: a name, a country and a time zone; the rest follows. */
@Component({
  selector: 'il-new-site-sheet',
  imports: [FormsModule, MatAutocompleteModule, MatButtonModule, MatFormFieldModule, MatInputModule, Sheet],
  template: `
    <il-sheet
      [heading]="from() ? 'Copy of ' + from()!.name : 'New site'"
      [focusFirst]="true"
      [note]="
        from()
          ? 'It gets the same segments in free address space, the tags and the window. SSIDs sent there by name are put to the draft.'
          : 'It starts with a management segment in free address space.'
      "
      (closed)="closed.emit()"
    >
      <button actions mat-flat-button type="submit" form="new-site" [disabled]="busy()">
        {{ from() ? 'Copy the site' : 'Add site' }}
      </button>
      <form id="new-site" (ngSubmit)="add()">
        <div class="cells">
          <div class="cell">
            <label for="site-name">Name</label>
            <mat-form-field
              ><input matInput id="site-name" name="name" [(ngModel)]="name" (ngModelChange)="nameTyped($event)"
            /></mat-form-field>
            <p class="flaw" role="alert">{{ problem()?.of('name') }}</p>
          </div>
          <div class="cell">
            <label for="site-code">Short form, for device names</label>
            <mat-form-field class="mono-field"
              ><input
                matInput
                id="site-code"
                name="code"
                [ngModel]="code()"
                (ngModelChange)="code.set($event); codeTyped = true"
            /></mat-form-field>
            <p class="hint">{{ code() ? code() + '-gw-01, ' + code() + '-sw-01 …' : 'Derived from the name' }}</p>
            <p class="flaw" role="alert">{{ problem()?.of('code') }}</p>
          </div>
          <div class="cell">
            <label for="site-new-tags">Tags</label>
            <mat-form-field><input matInput id="site-new-tags" name="tags" [(ngModel)]="tags" /></mat-form-field>
            <p class="hint">Parted by commas</p>
          </div>
          <div class="cell">
            <label for="site-country">Country</label>
            <mat-form-field>
              <input matInput id="site-country" name="country" [(ngModel)]="country" [matAutocomplete]="countries" />
              <mat-autocomplete #countries>
                @for (each of matching(names, country); track each) {
                  <mat-option [value]="each">{{ each }}</mat-option>
                }
              </mat-autocomplete>
            </mat-form-field>
            <p class="hint">Decides which channels and powers are legal.</p>
            <p class="flaw" role="alert">{{ problem()?.of('country') }}</p>
          </div>
          <div class="cell">
            <label for="site-zone">Time zone</label>
            <mat-form-field>
              <input matInput id="site-zone" name="timeZone" [(ngModel)]="timeZone" [matAutocomplete]="zones" />
              <mat-autocomplete #zones>
                @for (each of matching(timeZones, timeZone); track each) {
                  <mat-option [value]="each">{{ each }}</mat-option>
                }
              </mat-autocomplete>
            </mat-form-field>
            <p class="flaw" role="alert">{{ problem()?.of('timeZone') }}</p>
          </div>
          @if (refusal(); as message) {
            <p class="cell full flaw" role="alert">{{ message }}</p>
          }
        </div>
      </form>
    </il-sheet>
  `,
  styles: ':host { display: contents; } .cell button { margin-top: 16px; }',
})
export class NewSiteSheet {
  private readonly estate = inject(EstateStore);
  /** The site it is a copy of; null for a new one. */
  readonly from = input<SiteView | null>(null);
  readonly closed = output<void>();
  readonly added = output<SiteView>();
  protected readonly names = COUNTRIES.map((country) => country.name);
  protected readonly timeZones = TIME_ZONES;
  protected name = '';
  protected readonly code = signal('');
  protected codeTyped = false;
  // Sites are mostly in the country of the others.
  private readonly other = this.estate.estate()?.sites[0] ?? this.estate.estate();
  protected timeZone = this.other?.timeZone ?? Intl.DateTimeFormat().resolvedOptions().timeZone;
  protected country = COUNTRIES.find((each) => each.code === this.other?.country)?.name ?? '';
  protected tags = '';
  protected readonly problem = signal<Problem | null>(null);
  /** What was refused and belongs to no field. */
  protected readonly refusal = computed(() => (this.problem()?.flaws.length === 0 ? this.problem()!.message : ''));
  protected readonly busy = signal(false);

  constructor() {
    effect(() => {
      const from = this.from();
      if (!from) return;
      this.tags = from.tags.join(', ');
      this.timeZone = from.timeZone;
      this.country = COUNTRIES.find((each) => each.code === from.country)?.name ?? '';
    });
  }

  protected async nameTyped(name: string): Promise<void> {
    if (this.codeTyped) return;
    if (name.trim() === '') {
      this.code.set('');
      return;
    }
    const code = await this.estate.proposeCode(name).catch(() => '');
    if (name === this.name && !this.codeTyped) {
      this.code.set(code);
      this.problem.set(null);
    }
  }

  protected matching(all: readonly string[], typed: string): readonly string[] {
    if (all.includes(typed)) return all;
    const wanted = typed.toLowerCase();
    return all.filter((each) => each.toLowerCase().includes(wanted));
  }

  protected async add(): Promise<void> {
    await attempt(this.busy, this.problem, async () => {
      const { name, timeZone } = this;
      const code = this.code();
      const country = countryByName(this.country) ?? this.country;
      const wish = { name, code, timeZone, country, address: '', tags: readTags(this.tags) };
      const from = this.from();
      this.added.emit(await (from ? this.estate.copySite({ ...wish, from: from.id }) : this.estate.addSite(wish)));
    });
  }
}
