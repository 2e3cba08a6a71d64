import { Component, inject, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatAutocompleteModule } from '@angular/material/autocomplete';
import { MatButtonModule } from '@angular/material/button';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInputModule } from '@angular/material/input';
import type { SiteView } from '@iron-lattice/core/intake';
import { EstateStore } from '../shell/estate-store';
import { problemOf, type Problem } from '../shell/problem';
import { Sheet } from '../ui/sheet';
import { COUNTRIES, countryByName } from './countries';

const TIME_ZONES = Intl.supportedValuesOf('timeZone');

/** A new site: a name, a country and a time zone; the rest follows. */
@Component({
  selector: 'il-new-site-sheet',
  imports: [FormsModule, MatAutocompleteModule, MatButtonModule, MatFormFieldModule, MatInputModule, Sheet],
  template: `
    <il-sheet
      heading="New site"
      [focusFirst]="true"
      note="It starts with a management segment in free address space."
      (closed)="closed.emit()"
    >
      <form (ngSubmit)="add()">
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
              ><input matInput id="site-code" name="code" [(ngModel)]="code" (ngModelChange)="codeTyped = true"
            /></mat-form-field>
            <p class="hint">{{ code ? code + '-gw-01, ' + code + '-sw-01 …' : 'Derived from the name' }}</p>
            <p class="flaw" role="alert">{{ problem()?.of('code') }}</p>
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
          <div class="cell">
            <button mat-flat-button type="submit" [disabled]="busy()">Add site</button>
            @if (problem(); as now) {
              @if (now.flaws.length === 0) {
                <p class="flaw" role="alert">{{ now.message }}</p>
              }
            }
          </div>
        </div>
      </form>
    </il-sheet>
  `,
  styles: ':host { display: contents; } .cell button { margin-top: 16px; }',
})
export class NewSiteSheet {
  private readonly estate = inject(EstateStore);
  readonly closed = output<void>();
  readonly added = output<SiteView>();
  protected readonly names = COUNTRIES.map((country) => country.name);
  protected readonly timeZones = TIME_ZONES;
  protected name = '';
  protected code = '';
  protected codeTyped = false;
  // Sites are mostly in the country of the others.
  private readonly other = this.estate.estate()?.sites[0];
  protected timeZone = this.other?.timeZone ?? Intl.DateTimeFormat().resolvedOptions().timeZone;
  protected country = COUNTRIES.find((each) => each.code === this.other?.country)?.name ?? '';
  protected readonly problem = signal<Problem | null>(null);
  protected readonly busy = signal(false);

  protected async nameTyped(name: string): Promise<void> {
    if (this.codeTyped) return;
    if (name.trim() === '') {
      this.code = '';
      return;
    }
    const code = await this.estate.proposeCode(name).catch(() => '');
    if (name === this.name && !this.codeTyped) {
      this.code = code;
      this.problem.set(null);
    }
  }

  protected matching(all: readonly string[], typed: string): readonly string[] {
    if (all.includes(typed)) return all;
    const wanted = typed.toLowerCase();
    return all.filter((each) => each.toLowerCase().includes(wanted));
  }

  protected async add(): Promise<void> {
    this.busy.set(true);
    try {
      const { name, code, timeZone } = this;
      this.added.emit(
        await this.estate.addSite({ name, code, timeZone, country: countryByName(this.country) ?? this.country }),
      );
    } catch (error) {
      this.problem.set(problemOf(error));
    } finally {
      this.busy.set(false);
    }
  }
}
