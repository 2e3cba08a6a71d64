import { lastsWords } from '@iron-lattice/core/base';
import { DatePipe } from '@angular/common';
import { Component, computed, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { LEAST_DAYS, writtenCode, type CodeView } from '@iron-lattice/core/guests';
import { SessionStore } from '../session/session-store';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { ChoiceCell } from '../ui/choice-cell';
import { counted } from '../ui/counted';
import type { TableColumn } from '../ui/data-rows';
import { DataTable } from '../ui/data-table';
import { saveTable } from '../ui/export-rows';
import { GuestsStore } from './guests-store';

const TIME = new DatePipe('en');
const TONES: Readonly<Record<CodeView['state'], string>> = { unused: '', used: 'good', over: 'soft', revoked: 'soft' };
const STATE_WORDS: Readonly<Record<CodeView['state'], string>> = {
  unused: 'not used yet',
  used: 'in use',
  over: 'over',
  revoked: 'taken back',
};

/** Visit codes of a portal: what each is for, how long it lasts, and who uses it. */
@Component({
  selector: 'il-codes-view',
  imports: [MatButtonModule, ChoiceCell, DataTable],
  template: `
    <div class="bar">
      @if (store.coded().length > 1) {
        <il-choice-cell
          label="Codes of"
          for="codes-of"
          [options]="choices()"
          [value]="store.portal()?.id"
          (chosen)="store.wanted.set($event)"
        />
      }
      <span class="soft" role="status">{{ words() }}</span>
      @if (weak(); as days) {
        <span class="caution">Guessing one takes {{ days }} days: make new ones longer, or fewer.</span>
      }
      <span class="grow"></span>
      @if (session.mayChange() && picked().size > 0) {
        <button mat-stroked-button (click)="revoke()">Take back {{ picked().size }}</button>
      }
      @if (session.mayChange() && picked().size > 0) {
        <button mat-stroked-button (click)="print()">Print {{ picked().size }}</button>
      }
      @if (session.mayChange() && picked().size > 0) {
        <button mat-button (click)="print(true)">{{ picked().size }} as PDF</button>
      }
      @if (session.mayChange() && codes().length > 0) {
        <button mat-button (click)="save()">
          {{ picked().size > 0 ? picked().size + ' as CSV' : 'All as CSV' }}
        </button>
      }
      @if (session.mayChange() && store.portal()) {
        <button mat-stroked-button (click)="store.sheet.set({ of: 'list' })">From a list…</button>
        <button mat-flat-button (click)="store.sheet.set({ of: 'new' })">Make codes</button>
      }
    </div>
    <il-data-table
      label="Visit codes"
      remember="visit-codes"
      [rows]="codes()"
      [columns]="columns"
      [key]="key"
      [name]="name"
      [pickable]="session.mayChange()"
      [(picked)]="picked"
      [shown]="store.code()?.id ?? null"
      (opened)="store.sheet.set({ of: 'code', id: $event.id })"
    >
      <span empty>{{ empty() }}</span>
    </il-data-table>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      height: 100%;
    }
    .bar {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 6px 10px;
      padding: 0 14px 8px;
      flex: none;
    }
    il-data-table {
      flex: 1;
      min-height: 0;
    }
  `,
})
export class CodesView {
  protected readonly store = inject(GuestsStore);
  protected readonly session = inject(SessionStore);
  private readonly shared = inject(SharedStore);
  private readonly site = inject(SiteStore);
  protected readonly picked = this.store.pickedCodes;
  protected readonly codes = computed(() => this.store.codes()?.codes ?? []);
  protected readonly choices = computed(() => this.store.coded().map(({ id, name }) => ({ value: id, label: name })));
  protected readonly key = ({ id }: CodeView): string => id;
  protected readonly name = ({ name, hint }: CodeView): string => name || `…${hint}`;
  protected readonly words = computed(() => {
    if (!this.store.codes()) return '';
    const right = this.codes().filter(({ state }) => state === 'unused' || state === 'used').length;
    return `${counted(right, 'code')} of ${this.store.portal()?.name}`;
  });
  /** Days that guessing takes, where these are too few. */
  protected readonly weak = computed(() => {
    const view = this.store.codes();
    if (!view || view.codes.length === 0 || view.daysToGuess >= LEAST_DAYS) return null;
    return Math.floor(view.daysToGuess);
  });
  protected readonly empty = computed(() => {
    if (this.store.problem()) return this.store.problem()!.message;
    if (!this.shared.estate()) return 'Asking…';
    if (!this.store.portal())
      return 'No portal takes visit codes yet. Tick “Visit code” in the sheet of a portal, under Portals.';
    return this.store.codes()
      ? 'No code yet. Make one, or many: each opens the portal for as long as you say, on as many devices as you say.'
      : 'Asking…';
  });
  protected readonly columns: readonly TableColumn<CodeView>[] = [
    { key: 'name', title: 'For', text: ({ name }) => name, width: 140, phone: true },
    { key: 'hint', title: 'Ends with', text: ({ hint }) => `…${hint}`, width: 75, mono: true },
    {
      ...{ key: 'state', title: 'State', width: 100, groups: true, phone: true },
      text: ({ state }) => STATE_WORDS[state],
      tone: ({ state }) => TONES[state],
    },
    {
      key: 'lasts',
      title: 'Lasts',
      text: ({ minutes }) => lastsWords(minutes),
      order: ({ minutes }) => minutes,
      width: 65,
    },
    {
      ...{ key: 'until', title: 'Until', width: 110 },
      text: ({ until, useBy }) => {
        if (until) return TIME.transform(until, 'd MMM HH:mm') ?? '';
        return useBy ? `use by ${TIME.transform(useBy, 'd MMM HH:mm')}` : 'from first use';
      },
      order: ({ until }) => (until ? Date.parse(until) : Infinity),
    },
    {
      ...{ key: 'devices', title: 'Devices', width: 75, phone: true },
      text: ({ devices, most }) => `${devices.length} of ${most ?? 'any'}`,
      order: ({ devices }) => devices.length,
    },
    { key: 'by', title: 'Made by', text: ({ by }) => by, width: 100, groups: true },
    {
      ...{ key: 'made', title: 'Made', width: 95 },
      text: ({ madeAt }) => TIME.transform(madeAt, 'd MMM HH:mm') ?? '',
      order: ({ madeAt }) => Date.parse(madeAt),
    },
  ];

  protected async revoke(): Promise<void> {
    const picked = this.codes().filter(({ id, state }) => this.picked().has(id) && state !== 'revoked');
    if (picked.length > 0) await this.store.revoke(picked);
    this.picked.set(new Set());
  }

  /** @param asFile as PDF, to be printed elsewhere. */
  protected async print(asFile = false): Promise<void> {
    await this.site.attempt(async () => {
      const wanted = this.codes().filter(({ id }) => this.picked().has(id));
      const itself = await this.store.reveal(wanted.map(({ id }) => id));
      await this.store.print(
        wanted.map((each) => ({ ...each, code: itself[each.id]! })),
        asFile,
      );
    });
  }

  /** Codes with themselves, for whoever prints or mails them elsewhere. */
  protected async save(): Promise<void> {
    const wanted = this.codes().filter(({ id }) => this.picked().size === 0 || this.picked().has(id));
    const itself = await this.store.reveal(wanted.slice(0, 10_000).map(({ id }) => id));
    await saveTable('visit-codes', [
      ['For', 'Code', 'State', 'Lasts', 'Devices at most', 'Made by'],
      ...wanted.map(({ id, name, state, minutes, most, by }) => [
        ...[name, writtenCode(itself[id] ?? ''), STATE_WORDS[state], lastsWords(minutes), `${most ?? ''}`, by],
      ]),
    ]);
  }
}
