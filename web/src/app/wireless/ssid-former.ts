import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { Ssid } from '@iron-lattice/core/intent';
import { dayOf } from '@iron-lattice/core/rules';
import type { Problem } from '../session/problem';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { counted } from '../ui/counted';
import { TextCell } from '../ui/text-cell';
import type { SsidText } from './ssid-text';

/** For how many days an old passphrase is proposed to stay right. */
const DAYS = 14;

/** What becomes of an old passphrase: until when it is right beside the new one, and who still gives it. */
@Component({
  selector: 'il-ssid-former',
  imports: [MatButtonModule, Cell, TextCell],
  template: `
    @if (changing()) {
      <il-text-cell
        label="The old passphrase is right until"
        for="ssid-until"
        [mono]="true"
        [example]="'at once no more'"
        [hint]="hint()"
        [flaw]="problem()?.of('former')"
        [readonly]="!mayChange()"
        [value]="text().until"
        (typed)="changed.emit({ until: $event })"
      >
        @if (text().until === '' && mayChange()) {
          <button beside mat-button type="button" (click)="changed.emit({ until: proposed })">Keep it a while</button>
        }
      </il-text-cell>
    } @else if (former(); as former) {
      <il-cell label="The old passphrase" size="wide" [hint]="users()" [flaw]="problem()?.of('former')">
        <div class="value">
          {{ over() ? 'was right until' : 'is right until the end of' }} <b class="mono">{{ former.until }}</b>
          @if (mayChange()) {
            <button mat-button type="button" (click)="end.emit()">{{ over() ? 'Forget it' : 'End it now' }}</button>
          }
        </div>
      </il-cell>
    }
  `,
  styles: ':host { display: contents; }',
})
export class SsidFormer {
  private readonly store = inject(SiteStore);
  readonly ssid = input.required<Ssid | null>();
  readonly text = input.required<SsidText>();
  readonly problem = input.required<Problem | null>();
  readonly mayChange = input.required<boolean>();
  readonly changed = output<Partial<SsidText>>();
  /** The old passphrase is to be right no more. */
  readonly end = output<void>();

  protected readonly proposed = new Date(Date.now() + DAYS * 86_400_000).toISOString().slice(0, 10);
  /** Whether a passphrase is typed where there was one. */
  protected readonly changing = computed(() => this.text().passphrase !== '' && Boolean(this.ssid()?.passphrase));
  protected readonly former = computed(() => this.ssid()?.former ?? null);
  protected readonly over = computed(() => {
    const zone = this.store.site()?.timeZone ?? 'UTC';
    const until = this.former()?.until;
    return until !== undefined && until < dayOf(Date.now(), zone);
  });
  protected readonly hint = computed(() =>
    this.text().until === ''
      ? 'Empty: who has the old one is cut off with the rollout.'
      : 'By each site’s clock. Until then clients come by WPA2 at 2.4 and 5 GHz: WPA3 knows one passphrase.',
  );
  /** Who gave the old one when they joined, here. */
  protected readonly users = computed(() => {
    const name = this.ssid()?.name;
    const clients = this.store.devices().flatMap((device) => device.clients);
    const mine = clients.filter((client) => client.ssid === name && client.former);
    if (mine.length === 0) return 'Nobody here uses it now.';
    const names = mine.slice(0, 6).map((client) => client.name ?? client.mac);
    return `${counted(mine.length, 'client')} here still ${mine.length === 1 ? 'uses' : 'use'} it: ${names.join(', ')}${mine.length > 6 ? ' …' : ''}.`;
  });
}
