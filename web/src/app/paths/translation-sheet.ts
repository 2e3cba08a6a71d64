import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { translationsOf, type Translation } from '@iron-lattice/core/intent';
import { SessionStore } from '../session/session-store';
import { EditForm } from '../shell/edit-form';
import { SiteStore } from '../shell/site-store';
import { TrafficCell } from '../shell/traffic-cell';
import { TrafficTokens } from '../shell/traffic-tokens';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';
import { KeptEdits, lastTurn } from './kept-edits';
import { titleOf, type GatewayRow } from './path-rows';
import { newTranslation, translationTextOf, translationTyped, type TranslationText } from './translation-text';

const FIELDS = ['name', 'port', 'from', 'to', 'pool', 'turn'];

/** As what some are seen outside: said already, or to be added. */
@Component({
  selector: 'il-translation-sheet',
  imports: [MatButtonModule, Cell, ChoiceCell, Sheet, TextCell, TrafficCell],
  template: `
    <il-sheet [heading]="heading()" [note]="note()" [focusFirst]="translation() === null" (closed)="closed.emit()">
      @if (translation() && session.mayChange()) {
        <ng-container ngProjectAs="[actions]">
          <button mat-button type="button" [disabled]="!beside(-1)" (click)="move(-1)">Earlier</button>
          <button mat-button type="button" [disabled]="!beside(1)" (click)="move(1)">Later</button>
          <button mat-button type="button" (click)="remove()">Take away</button>
        </ng-container>
      }
      @if (translation() === null) {
        <button actions mat-flat-button type="button" [disabled]="form.busy()" (click)="add()">
          Add the translation
        </button>
      }
      <div class="cells">
        @let typed = text();
        <il-text-cell
          label="Called"
          for="translation-name"
          example="Payments"
          [most]="60"
          [flaw]="problem()?.of('name')"
          [readonly]="!session.mayChange()"
          [value]="typed.name"
          (typed)="form.put({ name: $event })"
          (done)="save()"
        />
        <il-traffic-cell
          of="ends"
          label="From"
          for="translation-from"
          [flaw]="problem()?.of('from')"
          [readonly]="!session.mayChange()"
          [value]="typed.from"
          (typed)="set({ from: $event })"
        />
        <il-traffic-cell
          of="ends"
          label="To"
          for="translation-to"
          [flaw]="problem()?.of('to')"
          [readonly]="!session.mayChange()"
          [value]="typed.to"
          (typed)="set({ to: $event })"
        />
        <il-choice-cell
          label="Leaving by"
          for="translation-port"
          [flaw]="problem()?.of('port')"
          [disabled]="!session.mayChange()"
          [options]="ports()"
          [value]="typed.port"
          (chosen)="set({ port: $event })"
        />
        <il-choice-cell
          label="Seen as"
          for="translation-as"
          [disabled]="!session.mayChange()"
          [options]="ways"
          [value]="typed.as"
          (chosen)="set({ as: $event })"
        />
        @if (typed.as === 'pool') {
          <il-text-cell
            label="Addresses of the pool"
            for="translation-pool"
            example="203.0.113.12-203.0.113.14"
            hint="Each inside is seen as always the same one"
            [mono]="true"
            [flaw]="problem()?.of('pool')"
            [readonly]="!session.mayChange()"
            [value]="typed.pool"
            (typed)="form.put({ pool: $event })"
            (done)="save()"
          />
        }
        @if (translation()) {
          <il-choice-cell
            label="In force"
            for="translation-off"
            [disabled]="!session.mayChange()"
            [options]="forces"
            [value]="typed.off"
            (chosen)="set({ off: $event })"
          />
        }
        @if (findings().length > 0) {
          <il-cell label="What is found" size="wide">
            @for (finding of findings(); track finding.key) {
              <p class="finding">
                <b>{{ finding.message }}.</b> {{ finding.reason }}
              </p>
            }
          </il-cell>
        }
        @if (other(); as wrong) {
          <p class="cell full flaw" role="alert">{{ wrong }}</p>
        }
      </div>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class TranslationSheet {
  private readonly store = inject(SiteStore);
  private readonly tokens = inject(TrafficTokens);
  protected readonly session = inject(SessionStore);
  readonly gateway = input.required<GatewayRow>();
  /** Null: a new one. */
  readonly translation = input.required<Translation | null>();
  readonly closed = output<void>();
  readonly added = output<string>();
  protected readonly ways: readonly Choice[] = [
    { value: 'pool', label: 'one of a pool of addresses' },
    { value: 'uplink', label: 'the address of the uplink' },
    { value: 'itself', label: 'itself: nothing is translated' },
  ];
  protected readonly forces: readonly Choice[] = [
    { value: false, label: 'yes' },
    { value: true, label: 'no, kept for later' },
  ];
  protected readonly form = new EditForm<Translation, TranslationText>({
    kept: () => this.translation(),
    idOf: ({ id }) => id,
    textOf: (kept) => (kept ? translationTextOf(kept) : newTranslation(this.gateway().uplinks[0]?.port ?? '')),
  });
  private readonly edits = new KeptEdits<Translation>({
    noun: 'translation',
    form: this.form,
    kept: () => this.translation(),
    read: () => translationTyped(this.text(), this.tokens.known()),
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly other = computed(() => this.form.other(FIELDS));
  protected readonly heading = computed(() => {
    const kept = this.translation();
    return kept ? `${this.gateway().device.name} ${kept.name}` : 'New translation';
  });
  protected readonly note = computed(() =>
    this.translation() ? 'As what they are seen outside' : `Who leaves ${this.gateway().device.name} as somebody else`,
  );
  protected readonly ports = computed((): readonly Choice[] =>
    this.gateway().uplinks.map((row) => ({ value: row.port, label: titleOf(row) })),
  );
  protected readonly findings = computed(() =>
    (this.store.consequences()?.findings ?? []).filter(
      ({ place }) => place.kind === 'translation' && place.id === this.translation()?.id,
    ),
  );
  private readonly all = computed(() => {
    const site = this.store.site();
    return site ? translationsOf(site, this.gateway().device.id) : [];
  });

  protected set(change: Partial<TranslationText>): void {
    this.form.put(change);
    // A pool is asked for before anything is said of it.
    if (this.text().as !== 'pool' || this.text().pool !== '') void this.save();
  }

  protected save = (): Promise<void> => this.edits.save();

  protected async add(): Promise<void> {
    const id = await this.edits.add({ deviceId: this.gateway().device.id, turn: lastTurn(this.all()) });
    if (id !== null) this.added.emit(id);
  }

  protected async remove(): Promise<void> {
    if (await this.edits.remove()) this.closed.emit();
  }

  /** The one that comes before it, or behind it. */
  protected beside(by: -1 | 1): Translation | undefined {
    const all = this.all();
    return all[all.findIndex(({ id }) => id === this.translation()?.id) + by];
  }

  protected async move(by: -1 | 1): Promise<void> {
    const theirs = this.beside(by);
    if (theirs) await this.edits.swap(this.translation()!, theirs, by);
  }
}
