import { Component, computed, effect, inject, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { readTags, type SiteView } from '@iron-lattice/core/intake';
import { EstateStore } from '../shell/estate-store';
import { attempt, type Problem } from '../session/problem';
import { Sheet } from '../ui/sheet';
import { COUNTRIES, countryByName } from '@iron-lattice/core/regulation';
import { TextCell } from '../ui/text-cell';

const TIME_ZONES = Intl.supportedValuesOf('timeZone');

/** A new site: a name, a country and a time zone; the rest follows. */
@Component({
  selector: 'il-new-site-sheet',
  imports: [FormsModule, MatButtonModule, Sheet, TextCell],
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
          <il-text-cell
            label="Name"
            for="site-name"
            [flaw]="problem()?.of('name')"
            [value]="name()"
            (typed)="nameTyped($event)"
          />
          <il-text-cell
            label="Short form, for device names"
            for="site-code"
            [hint]="code() ? code() + '-gw-01, ' + code() + '-sw-01 …' : 'Derived from the name'"
            [flaw]="problem()?.of('code')"
            [mono]="true"
            [value]="code()"
            (typed)="code.set($event); codeTyped = true"
          />
          <il-text-cell
            label="Tags"
            for="site-new-tags"
            hint="Parted by commas"
            [value]="tags()"
            (typed)="tags.set($event)"
          />
          <il-text-cell
            label="Country"
            for="site-country"
            hint="Decides which channels and powers are legal."
            [flaw]="problem()?.of('country')"
            [offers]="names"
            [value]="country()"
            (typed)="country.set($event)"
          />
          <il-text-cell
            label="Time zone"
            for="site-zone"
            [flaw]="problem()?.of('timeZone')"
            [offers]="timeZones"
            [value]="timeZone()"
            (typed)="timeZone.set($event)"
          />
          @if (refusal(); as message) {
            <p class="cell full flaw" role="alert">{{ message }}</p>
          }
        </div>
      </form>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class NewSiteSheet {
  private readonly estate = inject(EstateStore);
  /** The site it is a copy of; null for a new one. */
  readonly from = input<SiteView | null>(null);
  readonly closed = output<void>();
  readonly added = output<SiteView>();
  protected readonly names = COUNTRIES.map((country) => country.name);
  protected readonly timeZones = TIME_ZONES;
  protected readonly name = signal('');
  protected readonly code = signal('');
  protected codeTyped = false;
  // Sites are mostly in the country of the others.
  private readonly other = this.estate.estate()?.sites[0] ?? this.estate.estate();
  protected readonly timeZone = signal(this.other?.timeZone ?? Intl.DateTimeFormat().resolvedOptions().timeZone);
  protected readonly country = signal(COUNTRIES.find((each) => each.code === this.other?.country)?.name ?? '');
  protected readonly tags = signal('');
  protected readonly problem = signal<Problem | null>(null);
  /** What was refused and belongs to no field. */
  protected readonly refusal = computed(() => (this.problem()?.flaws.length === 0 ? this.problem()!.message : ''));
  protected readonly busy = signal(false);

  constructor() {
    effect(() => {
      const from = this.from();
      if (!from) return;
      this.tags.set(from.tags.join(', '));
      this.timeZone.set(from.timeZone);
      this.country.set(COUNTRIES.find((each) => each.code === from.country)?.name ?? '');
    });
  }

  protected async nameTyped(name: string): Promise<void> {
    this.name.set(name);
    if (this.codeTyped) return;
    if (name.trim() === '') {
      this.code.set('');
      return;
    }
    const code = await this.estate.proposeCode(name).catch(() => '');
    if (name === this.name() && !this.codeTyped) {
      this.code.set(code);
      this.problem.set(null);
    }
  }

  protected async add(): Promise<void> {
    await attempt(this.busy, this.problem, async () => {
      const [name, timeZone, code] = [this.name(), this.timeZone(), this.code()];
      const country = countryByName(this.country()) ?? this.country();
      const wish = { name, code, timeZone, country, address: '', tags: readTags(this.tags()) };
      const from = this.from();
      this.added.emit(await (from ? this.estate.copySite({ ...wish, from: from.id }) : this.estate.addSite(wish)));
    });
  }
}
