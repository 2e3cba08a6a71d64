import { Component, computed, inject, input, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { RouterLink } from '@angular/router';
import { windowWords } from '@iron-lattice/core/firmware';
import { readCoordinates, readTags, writeCoordinates, type SiteView } from '@iron-lattice/core/intake';
import { radioWords } from '@iron-lattice/core/regulation';
import { SessionStore } from '../session/session-store';
import { EditForm } from '../shell/edit-form';
import { EstateStore } from '../shell/estate-store';
import { Cell } from '../ui/cell';
import { SiteRemovalCell } from './site-removal';
import { Sheet } from '../ui/sheet';
import { WindowField } from '../ui/window-field';
import { TextCell } from '../ui/text-cell';

/** A site as the estate sees it: where it is, its tags, when its devices may restart. */
@Component({
  selector: 'il-site-sheet',
  imports: [FormsModule, MatButtonModule, RouterLink, Cell, Sheet, SiteRemovalCell, WindowField, TextCell],
  template: `
    <il-sheet [heading]="site().name" [note]="site().code" (closed)="closed.emit()">
      <ng-container ngProjectAs="[actions]">
        <a mat-stroked-button [routerLink]="['/sites', site().id, 'intake']">Open</a>
        @if (session.mayChange()) {
          <button mat-stroked-button (click)="copied.emit(site())">Copy this site</button>
          <button
            mat-flat-button
            type="submit"
            form="site-facts"
            [disabled]="form.busy() || !form.differs() || astray() !== ''"
          >
            Save
          </button>
        }
      </ng-container>
      <form id="site-facts" class="cells" (ngSubmit)="save()">
        <il-text-cell
          label="Postal address"
          for="site-address"
          size="wide"
          [value]="text().address"
          (typed)="form.put({ address: $event })"
          [readonly]="!may()"
        />
        <il-text-cell
          label="Tags"
          for="site-tags"
          hint="Parted by commas"
          [value]="text().tags"
          (typed)="form.put({ tags: $event })"
          [readonly]="!may()"
        />
        <il-text-cell
          label="Coordinates"
          for="site-coordinates"
          hint="WGS 84, such as 53.3498, -6.2603"
          [mono]="true"
          [flaw]="astray()"
          [value]="text().coordinates"
          (typed)="form.put({ coordinates: $event })"
          [readonly]="!may()"
        />
        <il-text-cell
          label="What it is for"
          for="site-purpose"
          hint="Found by it"
          [flaw]="problem()?.of('purpose')"
          [value]="text().purpose"
          (typed)="form.put({ purpose: $event })"
          [readonly]="!may()"
        />
        <il-cell label="Country and radio" [hint]="radio()"
          ><div class="value">{{ site().country }}</div></il-cell
        >
        <il-cell label="Devices may restart" size="wide" [hint]="'In ' + site().timeZone" [flaw]="windowFlaw()">
          <div class="choices" role="group" aria-label="Update window">
            <button
              type="button"
              [disabled]="!may()"
              [attr.aria-pressed]="text().window === null"
              (click)="form.put({ window: null })"
            >
              As the estate: {{ estateWindow() }}
            </button>
            <button type="button" [disabled]="!may()" [attr.aria-pressed]="text().window !== null" (click)="own()">
              Its own
            </button>
          </div>
          @if (text().window; as mine) {
            <il-window-field [window]="mine" (changed)="form.put({ window: $event })" />
          }
        </il-cell>
        @if (other(); as message) {
          <p class="cell full flaw" role="alert">{{ message }}</p>
        }
        @if (may() && isEmpty()) {
          <il-site-removal [site]="site()" (gone)="closed.emit()" />
        }
      </form>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class SiteSheet {
  private readonly estate = inject(EstateStore);
  protected readonly session = inject(SessionStore);
  readonly site = input.required<SiteView>();
  readonly closed = output<void>();
  readonly copied = output<SiteView>();
  protected readonly may = this.session.mayChange;
  protected readonly form = new EditForm<SiteView, SiteText>({ kept: () => this.site(), idOf: ({ id }) => id, textOf });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  /** What was refused and belongs to no field. */
  protected readonly other = computed(() => (this.problem()?.flaws.length === 0 ? this.problem()!.message : ''));
  protected readonly radio = computed(() => radioWords(this.site().country));
  protected readonly estateWindow = computed(() => {
    const estate = this.estate.estate();
    return estate ? windowWords(estate.window) : '';
  });
  protected readonly windowFlaw = computed(() =>
    ['day', 'from', 'minutes']
      .map((field) => this.problem()?.of(field) ?? '')
      .join(' ')
      .trim(),
  );
  /** Whether no device was taken in here. */
  protected readonly isEmpty = computed(() =>
    Object.entries(this.site().devices).every(([state, count]) => state === 'expected' || count === 0),
  );
  /** What is wrong with the coordinates. */
  protected readonly astray = computed(() => {
    const { coordinates } = this.text();
    const fine = coordinates.trim() === '' || readCoordinates(coordinates) !== null;
    return fine ? '' : 'Latitude, then longitude, parted by a comma, in degrees.';
  });

  protected own(): void {
    this.form.put({ window: this.text().window ?? ordered(this.estate.estate()!.window) });
  }

  protected async save(): Promise<void> {
    const { tags, coordinates, ...text } = this.text();
    const { id, version } = this.form.seen()!;
    await this.form.send(() =>
      this.estate.changeSite(id, { version, ...text, coordinates: readCoordinates(coordinates), tags: readTags(tags) }),
    );
  }
}

interface SiteText {
  readonly address: string;
  readonly coordinates: string;
  readonly purpose: string;
  readonly tags: string;
  readonly window: SiteView['window'];
}

const textOf = (site: SiteView | null): SiteText => ({
  address: site?.address ?? '',
  coordinates: site?.coordinates ? writeCoordinates(site.coordinates) : '',
  purpose: site?.purpose ?? '',
  tags: (site?.tags ?? []).join(', '),
  window: site?.window ? ordered(site.window) : null,
});

/** The database gives fields back in its own order. */
const ordered = ({ day, from, minutes }: NonNullable<SiteView['window']>) => ({ day, from, minutes });
