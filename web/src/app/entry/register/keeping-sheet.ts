import { Component, computed, inject, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { KEPT_DAYS, type RegisterErased, type RegisterKeeping } from '@iron-lattice/core/entry';
import { SessionStore } from '../../session/session-store';
import { EditForm } from '../../shell/edit-form';
import { EstateStore } from '../../shell/estate-store';
import { SharedStore } from '../../shell/shared-store';
import { anewFor } from '../../ui/anew-for';
import { Cell } from '../../ui/cell';
import { counted } from '../../ui/counted';
import { Sheet } from '../../ui/sheet';
import { TextCell } from '../../ui/text-cell';
import { TokenField, type TokenSource } from '../../ui/token-field';
import { RegisterStore } from './register-store';

interface KeepingText {
  readonly days: string;
  /** Names, one a line. */
  readonly sites: string;
  readonly ssids: string;
}
interface Named {
  readonly id: string;
  readonly name: string;
}

/** For how long clients are kept, and where nothing of them is: what that erases at once is said, and asked about. */
@Component({
  selector: 'il-keeping-sheet',
  imports: [MatButtonModule, Cell, Sheet, TextCell, TokenField],
  template: `
    <il-sheet
      heading="What is kept of clients"
      note="For all sites, from the moment that it is said."
      (closed)="closed.emit()"
    >
      @if (session.mayChange()) {
        <button actions mat-flat-button type="submit" form="keeping-fields" [disabled]="form.busy() || !form.differs()">
          {{ press() }}
        </button>
      }
      <form id="keeping-fields" (submit)="$event.preventDefault(); keep()">
        <div class="cells">
          <il-text-cell
            label="Erased after days"
            for="keeping-days"
            [mono]="true"
            [hint]="'After somebody was seen last: ' + limits.least + ' to ' + limits.most"
            [flaw]="daysFlaw()"
            [readonly]="!session.mayChange()"
            [value]="form.text().days"
            (typed)="form.put({ days: $event })"
          />
          <il-cell label="Nothing kept of clients at sites" for="keeping-sites" size="wide">
            <il-token-field
              label="Sites of whose clients nothing is kept"
              for="keeping-sites"
              placeholder="Site…"
              [value]="form.text().sites"
              [source]="sites()"
              [readonly]="!session.mayChange()"
              (typed)="form.put({ sites: $event })"
            />
          </il-cell>
          <il-cell
            label="Nothing kept of clients on SSIDs"
            for="keeping-ssids"
            size="wide"
            hint="By the name that an SSID has, at every site"
          >
            <il-token-field
              label="SSIDs of whose clients nothing is kept"
              for="keeping-ssids"
              placeholder="SSID…"
              [value]="form.text().ssids"
              [source]="ssids()"
              [readonly]="!session.mayChange()"
              (typed)="form.put({ ssids: $event })"
            />
          </il-cell>
          @if (erases(); as erased) {
            <p class="cell full caution" role="alert">
              {{ erasedWords(erased) }} It cannot be brought back. Press once more to have it so.
            </p>
          }
          <p class="cell full soft">
            Who is here at the moment is shown in any case, and who was turned away is kept for seven days. Live
            sessions and their accounting are a RADIUS server’s own to keep.
          </p>
          @if (form.problem(); as problem) {
            <p class="cell full flaw" role="alert">{{ problem.message }}</p>
          }
        </div>
      </form>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    il-token-field {
      max-height: 84px;
      overflow-y: auto;
    }
  `,
})
export class KeepingSheet {
  private readonly store = inject(RegisterStore);
  protected readonly session = inject(SessionStore);
  private readonly estate = inject(EstateStore);
  private readonly shared = inject(SharedStore);
  readonly closed = output<void>();
  protected readonly limits = KEPT_DAYS;
  private readonly allSites = computed((): readonly Named[] => this.estate.estate()?.sites ?? []);
  private readonly allSsids = computed((): readonly Named[] => this.shared.estate()?.ssids ?? []);
  protected readonly sites = computed(() => sourceOf(this.allSites()));
  protected readonly ssids = computed(() => sourceOf(this.allSsids()));
  protected readonly form = new EditForm<RegisterKeeping, KeepingText>({
    kept: () => this.store.keeping(),
    idOf: () => 'keeping',
    textOf: (keeping) => ({
      days: String(keeping?.days ?? KEPT_DAYS.usual),
      sites: namesOf(keeping?.siteIds ?? [], this.allSites()),
      ssids: namesOf(keeping?.ssidIds ?? [], this.allSsids()),
    }),
  });
  protected readonly daysFlaw = computed(() => {
    const days = this.form.text().days.trim();
    const fits = /^\d{1,3}$/.test(days) && Number(days) >= KEPT_DAYS.least && Number(days) <= KEPT_DAYS.most;
    return fits ? '' : `A whole number from ${KEPT_DAYS.least} to ${KEPT_DAYS.most}.`;
  });
  /** What the press would erase, of what stands here; null: it was not looked at yet. */
  protected readonly erases = anewFor<RegisterErased | null>(
    () => JSON.stringify(this.form.text()),
    () => null,
  );
  protected readonly press = computed(() => {
    const erased = this.erases();
    return erased ? `Keep it so, and erase ${counted(erased.clients, 'client')}` : 'Keep it so';
  });

  protected erasedWords({ clients, noted, places }: RegisterErased): string {
    const named = noted > 0 ? `, ${noted} of them with a name or a note` : '';
    const others = places > 0 ? ` Of others, ${counted(places, 'place')} where they were would be forgotten.` : '';
    return `That erases ${counted(clients, 'client')} at once${named}.${others}`;
  }

  protected async keep(): Promise<void> {
    if (!this.form.differs() || this.form.busy() || this.daysFlaw() !== '') return;
    await this.form.send(async () => {
      const text = this.form.text();
      const wanted: RegisterKeeping = {
        days: Number(text.days),
        siteIds: idsOf(text.sites, this.allSites(), this.store.keeping()?.siteIds ?? []),
        ssidIds: idsOf(text.ssids, this.allSsids(), this.store.keeping()?.ssidIds ?? []),
      };
      const erased = await this.store.erases(wanted);
      const [asked, nothing] = [this.erases(), erased.clients + erased.places === 0];
      // What is asked about is what is done: where it is more by now, it is asked about anew.
      if (!nothing && (!asked || JSON.stringify(asked) !== JSON.stringify(erased))) return this.erases.set(erased);
      await this.store.keep(wanted);
    });
  }
}

const namesOf = (ids: readonly string[], all: readonly Named[]): string =>
  ids.map((id) => all.find((each) => each.id === id)?.name ?? id).join('\n');
/** Ids of names; what is no more is known by its id. */
const idsOf = (text: string, all: readonly Named[], kept: readonly string[]): string[] => [
  ...new Set(
    linesOf(text).flatMap((line) => {
      const found = all.find(({ name }) => name.toLowerCase() === line.toLowerCase());
      return found ? [found.id] : kept.includes(line) ? [line] : [];
    }),
  ),
];
const linesOf = (text: string): string[] =>
  text
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== '');
const sourceOf = (all: readonly Named[]): TokenSource => ({
  read: (text) =>
    linesOf(text).map((name) => ({
      ...{ text: name, label: name, kind: '' },
      bad: !all.some((each) => each.name.toLowerCase() === name.toLowerCase()),
    })),
  join: (tokens) => tokens.map(({ text }) => text).join('\n'),
  separator: '\n',
  options: all.map(({ name }) => ({ text: name, label: name, kind: '' })),
});
