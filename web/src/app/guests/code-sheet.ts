import { lastsWords } from '@iron-lattice/core/base';
import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input, output, resource } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { DatePipe } from '@angular/common';
import { writtenCode, type CodeView } from '@iron-lattice/core/guests';
import { SessionStore } from '../session/session-store';
import { EstateStore } from '../shell/estate-store';
import { SiteStore } from '../shell/site-store';
import { anewFor } from '../ui/anew-for';
import { firstValueFrom } from 'rxjs';
import { Cell } from '../ui/cell';
import { ChoiceCell } from '../ui/choice-cell';
import { counted } from '../ui/counted';
import { Sheet } from '../ui/sheet';
import { GuestsStore } from './guests-store';
import { SendCode } from './send-code';

/** By how much a code is made longer at a press, in minutes. */
const DAY = 1440;

/** One visit code: itself when it is asked for, who uses it, and what is done with it at once. */
@Component({
  selector: 'il-code-sheet',
  imports: [DatePipe, MatButtonModule, Cell, ChoiceCell, SendCode, Sheet],
  template: `
    <il-sheet [heading]="code().name || 'Visit code …' + code().hint" [note]="note()" (closed)="closed.emit()">
      @if (session.mayChange()) {
        <button actions mat-stroked-button [disabled]="shown() !== null" (click)="show()">Show the code</button>
      }
      @if (session.mayChange()) {
        <button actions mat-stroked-button (click)="print()">Print slip</button>
      }
      @if (session.mayChange() && code().state === 'revoked') {
        <button actions mat-flat-button (click)="store.restore([code().id])">Bring back</button>
      }
      @if (session.mayChange() && code().state !== 'revoked') {
        <button actions mat-stroked-button (click)="store.extendCodes([code().id], day)">1 d longer</button>
      }
      @if (session.mayChange() && code().state !== 'revoked') {
        <button actions mat-flat-button (click)="store.revoke([code()])">Take back</button>
      }
      <div class="cells">
        <il-cell label="Code">
          @if (shown(); as itself) {
            <b class="mono itself">{{ itself }}</b>
          } @else {
            <span class="mono">…{{ code().hint }}</span>
          }
        </il-cell>
        <il-cell label="Lasts">{{ lasts() }}</il-cell>
        <il-cell label="Until">{{ until() }}</il-cell>
        <il-cell label="Devices">{{ code().devices.length }} of {{ code().most ?? 'any number' }}</il-cell>
        @if (code().devices.length > 0) {
          <il-cell label="Used by" size="wide"
            ><span class="mono">{{ code().devices.join(', ') }}</span></il-cell
          >
        }
        @if (session.mayChange() && (code().state === 'unused' || code().state === 'used')) {
          <il-send-code [code]="code().id" />
        }
        <il-choice-cell
          label="Opens the portal at"
          for="code-sites"
          size="wide"
          hint="None chosen: wherever the portal is. Visits with it elsewhere end"
          [options]="sites()"
          [several]="true"
          [disabled]="!session.mayChange() || code().state === 'revoked'"
          [value]="opens()"
          (chosen)="opens.set($event)"
        />
        @if (moves()) {
          <div class="cell">
            <button mat-stroked-button type="button" (click)="move()">{{ moveLabel() }}</button>
          </div>
        }
        <il-cell label="Made">{{ code().madeAt | date: 'd MMM y HH:mm' }} by {{ code().by }}</il-cell>
      </div>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    .itself {
      font-size: 22px;
      letter-spacing: 0.08em;
      user-select: all;
    }
  `,
})
export class CodeSheet {
  protected readonly store = inject(GuestsStore);
  protected readonly session = inject(SessionStore);
  private readonly site = inject(SiteStore);
  readonly code = input.required<CodeView>();
  readonly closed = output<void>();
  protected readonly day = DAY;
  protected readonly shown = anewFor<string | null>(
    () => this.code().id,
    () => null,
  );
  protected readonly note = computed(() => {
    const words = { unused: 'Not used yet', used: 'In use', over: 'Over', revoked: 'Taken back' }[this.code().state];
    return `${words}. What is done here acts at once, and on visits that began with it.`;
  });
  private readonly estate = inject(EstateStore);
  private readonly http = inject(HttpClient);
  protected readonly sites = computed(() => this.estate.siteChoices());
  /** Sites that it is to open; none: wherever the portal is. */
  protected readonly opens = anewFor<readonly string[]>(
    () => `${this.code().id} ${this.code().siteIds?.join() ?? ''}`,
    () => this.code().siteIds ?? [],
  );
  protected readonly moves = computed(() => {
    const [now, wanted] = [this.code().siteIds ?? [], this.opens()];
    return now.length !== wanted.length || wanted.some((id) => !now.includes(id));
  });
  /** Visits that began with it and go on, by site. */
  private readonly going = resource({
    params: () => (this.moves() ? { id: this.code().id, devices: this.code().devices.length } : undefined),
    loader: ({ params: { id } }) =>
      firstValueFrom(this.http.get<{ siteId: string; count: number }[]>(`/api/codes/${id}/open-visits`)),
  });
  protected readonly moveLabel = computed(() => {
    const opens = this.opens();
    const ends = (this.going.value() ?? [])
      .filter(({ siteId }) => opens.length > 0 && !opens.includes(siteId))
      .reduce((sum, { count }) => sum + count, 0);
    return ends === 0 ? 'Move it there' : `Move it there, and end ${counted(ends, 'visit')}`;
  });
  protected readonly lasts = computed(() => {
    const { minutes, runs } = this.code();
    return `${lastsWords(minutes)} from ${runs === 'made' ? 'when it was made' : 'its first use'}`;
  });
  protected readonly until = computed(() => {
    const { until, useBy } = this.code();
    const time = (text: string): string => new DatePipe('en').transform(text, 'd MMM y HH:mm') ?? '';
    if (until) return time(until);
    return useBy ? `to be used first by ${time(useBy)}` : 'it is used first';
  });

  protected async move(): Promise<void> {
    await this.store.move(this.code(), this.opens().length === 0 ? null : this.opens());
  }

  protected async print(): Promise<void> {
    const { id } = this.code();
    await this.site.attempt(async () =>
      this.store.print([{ ...this.code(), code: (await this.store.reveal([id]))[id]! }]),
    );
  }

  protected async show(): Promise<void> {
    const { id } = this.code();
    const codes = await this.store.reveal([id]);
    if (codes[id]) this.shown.set(writtenCode(codes[id]));
  }
}
