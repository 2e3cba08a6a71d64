import { Component, computed, inject, input, output, viewChild } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { airWords, ownWords, type RadioRow } from '../shell/radio-rows';
import { RadioForm } from '../shell/radio-form';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { Sheet } from '../ui/sheet';
import { WidthGains } from './width-gains';

/** One radio or many: changes all that are chosen. */
@Component({
  selector: 'il-radios-sheet',
  imports: [MatButtonModule, RadioForm, Sheet, WidthGains],
  template: `
    <il-sheet [heading]="heading()" [note]="note()" (closed)="closed.emit()">
      @if (session.mayChange() && said()) {
        <button actions mat-stroked-button type="button" (click)="form()?.forget()">As the band says again</button>
      }
      @if (rows().length === 1) {
        <a actions mat-button [href]="file()" download>hostapd</a>
      }
      <div class="cells">
        <il-radio-form [rows]="rows()" [resets]="false" />
        @if (rows().length === 1) {
          <il-width-gains [row]="rows()[0]!" (take)="form()?.take($event)" />
        }
      </div>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class RadiosSheet {
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  protected readonly form = viewChild(RadioForm);
  /** Whether anything is said of them alone. */
  protected readonly said = computed(() =>
    this.rows().some(({ device, band }) => this.store.site()?.radios?.[device.id]?.[band] !== undefined),
  );
  readonly rows = input.required<readonly RadioRow[]>();
  /** In milliseconds since 1970. */
  readonly now = input.required<number>();
  readonly closed = output<void>();
  protected readonly heading = computed(() => {
    const [first, ...more] = this.rows();
    if (!first) return 'No radio';
    return more.length === 0 ? `${first.device.name} ${first.band} GHz` : `${more.length + 1} radios`;
  });
  /** Where its configuration is. */
  protected readonly file = computed(() => {
    const [first] = this.rows();
    const [draft, site] = [this.store.draft()?.id, this.store.siteId()];
    return `/api/drafts/${draft}/sites/${site}/devices/${first?.device.id}/hostapd/${first?.band}`;
  });
  protected readonly note = computed(() => {
    const [first, ...more] = this.rows();
    if (!first || more.length > 0) return 'What is chosen here is given to all of them.';
    const own = ownWords(first);
    return `on air: ${airWords(first, this.now())}${own ? ` · differs from the band in ${own}` : ' · as the band says'}`;
  });
}
