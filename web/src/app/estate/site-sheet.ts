import { Component, computed, inject, input, linkedSignal, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInputModule } from '@angular/material/input';
import { RouterLink } from '@angular/router';
import { windowWords } from '@iron-lattice/core/firmware';
import { readTags, type SiteView } from '@iron-lattice/core/intake';
import { radioWords } from '@iron-lattice/core/regulation';
import { SessionStore } from '../session/session-store';
import { EstateStore } from '../shell/estate-store';
import { attempt, type Problem } from '../session/problem';
import { Cell } from '../ui/cell';
import { Sheet } from '../ui/sheet';
import { WindowField } from '../ui/window-field';

/** A site as the estate sees it: where it is, its tags, when its devices may restart. */
@Component({
  selector: 'il-site-sheet',
  imports: [FormsModule, MatButtonModule, MatFormFieldModule, MatInputModule, RouterLink, Cell, Sheet, WindowField],
  template: `
    <il-sheet [heading]="site().name" [note]="site().code" (closed)="closed.emit()">
      <ng-container ngProjectAs="[actions]">
        <a mat-stroked-button [routerLink]="['/sites', site().id, 'intake']">Open</a>
        @if (session.mayChange()) {
          <button mat-stroked-button (click)="copied.emit(site())">Copy this site</button>
          <button mat-flat-button type="submit" form="site-facts" [disabled]="busy() || !changed()">Save</button>
        }
      </ng-container>
      <form id="site-facts" class="cells" (ngSubmit)="save()">
        <il-cell label="Postal address" for="site-address" size="wide">
          <mat-form-field
            ><input
              matInput
              id="site-address"
              name="address"
              [ngModel]="address()"
              (ngModelChange)="address.set($event)"
              [readonly]="!may()"
          /></mat-form-field>
        </il-cell>
        <il-cell label="Tags" for="site-tags" hint="Parted by commas">
          <mat-form-field
            ><input
              matInput
              id="site-tags"
              name="tags"
              [ngModel]="tags()"
              (ngModelChange)="tags.set($event)"
              [readonly]="!may()"
          /></mat-form-field>
        </il-cell>
        <il-cell label="Country and radio" [hint]="radio()"
          ><div class="value">{{ site().country }}</div></il-cell
        >
        <il-cell label="Devices may restart" size="wide" [hint]="'In ' + site().timeZone" [flaw]="windowFlaw()">
          <div class="choices" role="group" aria-label="Update window">
            <button
              type="button"
              [disabled]="!may()"
              [attr.aria-pressed]="window() === null"
              (click)="window.set(null)"
            >
              As the estate: {{ estateWindow() }}
            </button>
            <button type="button" [disabled]="!may()" [attr.aria-pressed]="window() !== null" (click)="own()">
              Its own
            </button>
          </div>
          @if (window(); as mine) {
            <il-window-field [window]="mine" (changed)="window.set($event)" />
          }
        </il-cell>
        @if (other(); as message) {
          <p class="cell full flaw" role="alert">{{ message }}</p>
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
  private readonly id = computed(() => this.site().id);
  protected readonly address = linkedSignal<string, string>({
    source: this.id,
    computation: () => this.site().address,
  });
  protected readonly tags = linkedSignal<string, string>({
    source: this.id,
    computation: () => this.site().tags.join(', '),
  });
  protected readonly window = linkedSignal<string, SiteView['window']>({
    source: this.id,
    computation: () => this.site().window,
  });
  /** Version of the site that the fields began with. */
  private readonly seen = linkedSignal<string, number>({ source: this.id, computation: () => this.site().version });
  protected readonly problem = linkedSignal<string, Problem | null>({ source: this.id, computation: () => null });
  /** What was refused and belongs to no field. */
  protected readonly other = computed(() => (this.problem()?.flaws.length === 0 ? this.problem()!.message : ''));
  protected readonly busy = signal(false);
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
  private readonly wish = computed(() => ({
    address: this.address(),
    tags: readTags(this.tags()),
    window: this.window(),
  }));
  protected readonly changed = computed(() => {
    const { address, tags, window } = this.site();
    return JSON.stringify(this.wish()) !== JSON.stringify({ address, tags, window: window && ordered(window) });
  });

  protected own(): void {
    this.window.set(this.window() ?? ordered(this.estate.estate()!.window));
  }

  protected async save(): Promise<void> {
    await attempt(this.busy, this.problem, async () => {
      await this.estate.changeSite(this.id(), { version: this.seen(), ...this.wish() });
    });
    // Saved, or told that somebody else was first: who saves again means what stands here.
    this.seen.set(this.estate.estate()?.sites.find((each) => each.id === this.id())?.version ?? this.seen());
  }
}

/** The database gives fields back in its own order. */
const ordered = ({ day, from, minutes }: NonNullable<SiteView['window']>) => ({ day, from, minutes });
