import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { SERIAL_COLUMNS, type SerialListPreview } from '@iron-lattice/core/intake';
import { ListBody, type ListWays } from '../shell/list-body';
import { ListTaking } from '../shell/list-taking';
import { SiteStore } from '../shell/site-store';
import type { PreviewColumn } from '../ui/list-preview';
import { IntakeApi } from './intake-api';

const TITLES: Readonly<Record<string, string>> = { serial: 'Serial', mac: 'MAC' };

/** A list of serial numbers, typed, pasted, CSV or XLSX: every row is looked at before any is taken. */
@Component({
  selector: 'il-find-by-list',
  imports: [MatButtonModule, ListBody],
  template: `
    <il-list-body [taking]="taking" [columns]="columns" [ways]="ways()">
      @if (taking.offer(); as offer) {
        <button mat-flat-button [disabled]="taking.busy()" (click)="taking.take()">{{ offer }}</button>
      }
    </il-list-body>
  `,
})
export class FindByList {
  private readonly api = inject(IntakeApi);
  private readonly site = inject(SiteStore);
  readonly siteId = input.required<string | null>();
  readonly done = output<void>();
  protected readonly columns: readonly PreviewColumn[] = SERIAL_COLUMNS.map(({ key }) => ({
    key,
    title: TITLES[key] ?? key[0]!.toUpperCase() + key.slice(1),
  }));
  protected readonly ways = computed((): ListWays => ({
    label: 'Or a file, CSV or XLSX',
    hint:
      this.siteId() === null
        ? 'Every row is looked at before any is taken. Each names its site.'
        : `Every row is looked at before any is taken. Those that name no site are for ${this.site.site()?.name ?? 'this one'}.`,
    sample: { href: '/api/serial-lists/sample', label: 'Sample file' },
    typed: {
      label: 'Type or paste, one device on each line',
      example: '3A1-0149-57, GW-4\n5C2-0135-55, SW-24P',
    },
  }));
  protected readonly taking: ListTaking<SerialListPreview> = new ListTaking(
    {
      look: (file) => this.api.previewList(file, this.siteId()),
      take: async ({ token, bad }) => {
        const { imported } = await this.api.importList(token, bad > 0);
        this.site.say(`${imported} devices are expected now. Each comes into step by itself when it calls.`);
      },
      offer: (_seen, { good, bad }) => {
        if (good === 0) return null;
        return bad === 0 ? `Expect ${good} devices` : `Expect the ${good} good, leave out ${bad}`;
      },
      summary: (_seen, { good, bad }) =>
        `${this.taking.name()}: ${good} good, ${bad} not.${bad > 0 ? ' Nothing is imported until you say so.' : ''}`,
    },
    () => this.done.emit(),
  );
}
