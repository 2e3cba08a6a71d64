import { lastsWords, readLasts } from '@iron-lattice/core/base';
import { Component, computed, inject, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { isCode, kindWords, MOST_NEW_CODES, plainCode, writtenCode, type NewCodes } from '@iron-lattice/core/guests';
import { attempt, type Problem } from '../session/problem';
import { EstateStore } from '../shell/estate-store';
import { SiteStore } from '../shell/site-store';
import { ChoiceCell } from '../ui/choice-cell';
import { counted } from '../ui/counted';
import { saveTable } from '../ui/export-rows';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';
import { GuestsStore, type MadeCode } from './guests-store';

/** Codes that were made and are shown at once; all of them are in the file. */
const MOST_SHOWN = 60;

interface NewText {
  readonly count: string;
  readonly name: string;
  readonly code: string;
  readonly lasts: string;
  readonly runs: 'made' | 'used';
  readonly useBy: string;
  readonly most: string;
  readonly siteIds: readonly string[];
}

/** New visit codes, one or many: what they open, for how long and for how many; and themselves once they are made. */
@Component({
  selector: 'il-new-codes-sheet',
  imports: [FormsModule, MatButtonModule, ChoiceCell, Sheet, TextCell],
  template: `
    <il-sheet [focusFirst]="true" heading="New visit codes" [note]="note()" (closed)="closed.emit()">
      @if (made().length > 0) {
        <button actions mat-stroked-button (click)="save()">As CSV</button>
      }
      @if (made().length > 0) {
        <button actions mat-stroked-button (click)="print()">{{ printLabel() }}</button>
      }
      @if (made().length > 0) {
        <button actions mat-flat-button (click)="made.set([])">Make more</button>
      } @else {
        <button actions mat-flat-button type="submit" form="new-codes" [disabled]="busy() || asked() === null">
          {{ label() }}
        </button>
      }
      @if (made().length > 0) {
        <ul class="made" aria-label="Codes that were made">
          @for (each of made().slice(0, most); track each.id) {
            <li>
              <b class="mono">{{ written(each.code) }}</b> <span class="soft">{{ each.name }}</span>
            </li>
          }
        </ul>
        @if (made().length > most) {
          <p class="more soft">And {{ made().length - most }} more: all of them are in the file.</p>
        }
      } @else {
        <form id="new-codes" (ngSubmit)="make()">
          <div class="cells">
            @if (kinds().length > 0) {
              <il-choice-cell
                label="Kind"
                for="codes-kind"
                hint="Says how long, and for how many"
                example="of its own"
                [options]="kinds()"
                [value]="kind()"
                (chosen)="choose($event)"
              />
            }
            <il-text-cell
              label="How many"
              for="codes-count"
              [flaw]="flaws().count"
              [value]="text().count"
              (typed)="put({ count: $event })"
            />
            <il-text-cell
              label="What for"
              for="codes-name"
              hint="Such as Cabin 12; several are numbered"
              [flaw]="problem()?.of('name')"
              [value]="text().name"
              (typed)="put({ name: $event })"
            />
            <il-text-cell
              label="Lasts"
              for="codes-lasts"
              hint="8 h, 90 min, 2 d"
              [flaw]="flaws().lasts ?? problem()?.of('minutes')"
              [value]="text().lasts"
              (typed)="put({ lasts: $event })"
            />
            <il-choice-cell
              label="Begins"
              for="codes-runs"
              [options]="begins"
              [value]="text().runs"
              (chosen)="put({ runs: $event })"
            />
            <il-text-cell
              label="Devices of each"
              for="codes-most"
              hint="Empty: any number"
              [flaw]="flaws().most ?? problem()?.of('most')"
              [value]="text().most"
              (typed)="put({ most: $event })"
            />
            @if (text().runs === 'used') {
              <il-text-cell
                label="Use first by"
                for="codes-use-by"
                hint="2026-12-31; empty: whenever"
                [mono]="true"
                [flaw]="flaws().useBy ?? problem()?.of('useBy')"
                [value]="text().useBy"
                (typed)="put({ useBy: $event })"
              />
            }
            <il-choice-cell
              label="Opens at"
              for="codes-sites"
              example="wherever the portal is"
              hint="None chosen: wherever the portal is"
              [several]="true"
              [options]="sites()"
              [value]="text().siteIds"
              (chosen)="put({ siteIds: $event })"
            />
            @if (text().count.trim() === '1') {
              <il-text-cell
                label="A code of your own"
                for="codes-own"
                hint="Empty: drawn. 6 to 16 of A–Z and 2–9, none of I, L, O, U"
                [mono]="true"
                [flaw]="flaws().code ?? problem()?.of('code')"
                [value]="text().code"
                (typed)="put({ code: $event })"
              />
            }
            @if (other(); as message) {
              <p class="cell full flaw" role="alert">{{ message }}</p>
            }
          </div>
        </form>
      }
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    .made {
      margin: 0;
      padding: 12px 14px;
      list-style: none;
      display: grid;
      grid-template-columns: repeat(auto-fill, minmax(230px, 1fr));
      gap: 8px 16px;
    }
    .made b {
      font-size: 20px;
      letter-spacing: 0.06em;
      user-select: all;
    }
    .more {
      padding: 0 14px 12px;
    }
  `,
})
export class NewCodesSheet {
  private readonly store = inject(GuestsStore);
  private readonly estate = inject(EstateStore);
  private readonly site = inject(SiteStore);
  readonly closed = output<void>();
  protected readonly most = MOST_SHOWN;
  protected readonly written = writtenCode;
  protected readonly begins = [
    { value: 'used', label: 'when it is first used' },
    { value: 'made', label: 'now' },
  ];
  private readonly start = (): NewText => {
    const siteId = this.site.siteId();
    return {
      ...{ count: '1', name: '', code: '', lasts: '1 d', runs: 'used', useBy: '', most: '1' },
      siteIds: siteId === null ? [] : [siteId],
    };
  };
  protected readonly text = signal<NewText>(this.start());
  protected readonly busy = signal(false);
  protected readonly problem = signal<Problem | null>(null);
  protected readonly made = signal<readonly MadeCode[]>([]);
  protected readonly sites = this.estate.siteChoices;
  protected readonly kinds = computed(() =>
    (this.store.portal()?.kinds ?? []).map((kind) => ({ value: kind.name, label: kindWords(kind) })),
  );
  /** The kind that what is typed is of; null: of none. */
  protected readonly kind = computed(() => {
    const { lasts, most } = this.text();
    const [minutes, devices] = [readLasts(lasts), most.trim() === '' ? null : Number(most)];
    const found = this.store.portal()?.kinds?.find((each) => each.minutes === minutes && each.most === devices);
    return found?.name ?? null;
  });
  protected readonly flaws = computed((): Partial<Record<keyof NewText, string>> => {
    const { count, lasts, most, useBy, code } = this.text();
    const [number, minutes] = [Number(count), readLasts(lasts)];
    const own = plainCode(code);
    return {
      ...(/^\d+$/.test(count.trim()) && number >= 1 && number <= MOST_NEW_CODES
        ? {}
        : { count: `From 1 to ${MOST_NEW_CODES.toLocaleString('en')}.` }),
      ...(minutes >= 5 && Number.isInteger(minutes)
        ? {}
        : { lasts: 'Write 90 min, 8 h or 2 d; five minutes at least.' }),
      ...(most.trim() === '' || /^[1-9]\d*$/.test(most.trim()) ? {} : { most: 'A whole number, or empty.' }),
      ...(useBy.trim() === '' || momentOf(useBy) !== null ? {} : { useBy: 'Write a day like 2026-12-31.' }),
      ...(own === '' || isCode(own) ? {} : { code: '6 to 16 of A–Z and 2–9, none of I, L, O, U.' }),
    };
  });
  /** What is asked for; null while it cannot be read. */
  protected readonly asked = computed((): NewCodes | null => {
    const portal = this.store.portal();
    if (!portal || Object.keys(this.flaws()).length > 0) return null;
    const { count, name, code, lasts, runs, useBy, most, siteIds } = this.text();
    const own = Number(count) === 1 ? plainCode(code) : '';
    return {
      ...{ portalId: portal.id, count: Number(count), name: name.trim(), runs, minutes: readLasts(lasts) },
      useBy: runs === 'used' && useBy.trim() !== '' ? momentOf(useBy) : null,
      ...{ most: most.trim() === '' ? null : Number(most), siteIds: siteIds.length > 0 ? siteIds : null },
      ...(own === '' ? {} : { code: own }),
    };
  });
  protected readonly label = computed(() => {
    const count = Number(this.text().count);
    return count > 1 ? `Make ${counted(count, 'code')}` : 'Make code';
  });
  protected readonly printLabel = computed(() => `Print ${counted(this.made().length, 'slip')}`);
  protected choose(name: string): void {
    const kind = this.store.portal()?.kinds?.find((each) => each.name === name);
    if (kind) this.put({ lasts: lastsWords(kind.minutes), most: kind.most === null ? '' : `${kind.most}` });
  }

  protected readonly note = computed(() => {
    const name = this.store.portal()?.name ?? '';
    return this.made().length > 0
      ? `${counted(this.made().length, 'code')} made for ${name}. They open it from now on.`
      : `They open ${name} as soon as they are made; nothing has to be rolled out.`;
  });
  protected readonly other = computed(() => {
    const problem = this.problem();
    const shown = ['name', 'minutes', 'most', 'useBy', 'code'];
    return problem && !problem.flaws.some(({ field }) => shown.includes(field ?? '')) ? problem.message : '';
  });

  protected put(change: Partial<NewText>): void {
    this.problem.set(null);
    this.text.update((text) => ({ ...text, ...change }));
  }

  protected async make(): Promise<void> {
    const asked = this.asked();
    if (!asked) return;
    await attempt(this.busy, this.problem, async () => this.made.set(await this.store.make(asked)));
  }

  protected async print(): Promise<void> {
    const { minutes, most, useBy } = this.asked()!;
    await this.site.attempt(() => this.store.print(this.made().map((each) => ({ ...each, minutes, most, useBy }))));
  }

  protected save(): Promise<void> {
    const rows = this.made().map(({ name, code }) => [name, writtenCode(code)]);
    return saveTable('visit-codes', [['For', 'Code'], ...rows]);
  }
}

/** The end of a day as the browser’s clock has it, ISO 8601; null where it is no day. */
function momentOf(text: string): string | null {
  const [, year, month, day] = /^\s*(\d{4})-(\d\d)-(\d\d)\s*$/.exec(text) ?? [];
  if (day === undefined) return null;
  const end = new Date(Number(year), Number(month) - 1, Number(day) + 1);
  const same = new Date(end.getTime() - 1).getDate() === Number(day);
  return same ? end.toISOString() : null;
}
