import { Component, computed, inject, input, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { uses, type KeptSet } from '@iron-lattice/core/intent';
import { ruleName } from '@iron-lattice/core/rollout';
import { readAddresses, readPorts } from '@iron-lattice/core/rules';
import { SessionStore } from '../session/session-store';
import { AtSites } from '../shell/at-sites';
import { EditForm } from '../shell/edit-form';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { TrafficTokens } from '../shell/traffic-tokens';
import { Cell } from '../ui/cell';
import { Sheet } from '../ui/sheet';
import { TokenField } from '../ui/token-field';
import { RulesFacts } from './rules-facts';
import { TextCell } from '../ui/text-cell';

interface SetText {
  readonly name: string;
  readonly addresses: string;
  readonly ports: string;
  readonly sets: string;
  readonly purpose: string;
}
const lines = (text: string): string[] =>
  text
    .split(/[\n,]/)
    .map((line) => line.trim())
    .filter((line) => line !== '');
const textOf = (set: KeptSet | null): SetText => {
  const list = (texts: readonly string[] | undefined): string => (texts ?? []).join('\n');
  const lists = { addresses: list(set?.addresses), ports: list(set?.ports), sets: list(set?.sets) };
  return { name: set?.name ?? '', purpose: set?.purpose ?? '', ...lists };
};
/** Most wrong lines that are told one by one. */
const MOST_TOLD = 12;

/** A named set: one that there is, or one to be added. Many lines may be pasted at once; each wrong one is told. */
@Component({
  selector: 'il-set-sheet',
  imports: [MatButtonModule, MatCheckboxModule, AtSites, Cell, Sheet, TokenField, TextCell],
  template: `
    <il-sheet
      [heading]="set()?.name ?? 'New named set'"
      [note]="note()"
      [focusFirst]="set() === null"
      (closed)="closed.emit()"
    >
      @if (set() && session.mayChange()) {
        <ng-container ngProjectAs="[actions]">
          <button mat-button (click)="remove()">Remove the set</button>
        </ng-container>
      }
      @if (set() === null) {
        <button actions mat-flat-button [disabled]="form.busy() || wrong().length > 0" (click)="add()">
          Add the set
        </button>
      }
      <div class="cells">
        @let typed = text();
        <il-text-cell
          label="Name"
          for="set-name"
          [flaw]="problem()?.of('name') || other()"
          [readonly]="!session.mayChange()"
          [value]="typed.name"
          (done)="put({ name: $event })"
        >
          @if (set() === null && !everywhere.atEstate()) {
            <mat-checkbox [checked]="shared()" (change)="shared.set($event.checked)">For every site</mat-checkbox>
          }
        </il-text-cell>
        @for (field of fields; track field.key) {
          <il-cell
            [label]="field.label"
            [for]="'set-' + field.key"
            [hint]="field.hint"
            [flaw]="problem()?.of(field.key)"
          >
            <textarea
              class="mono"
              rows="5"
              spellcheck="false"
              [id]="'set-' + field.key"
              [readOnly]="!session.mayChange()"
              [value]="typed[field.key]"
              (change)="putField(field.key, $any($event.target).value)"
            ></textarea>
          </il-cell>
        }
        <il-cell label="Other sets" for="set-sets" hint="Their content belongs to it" [flaw]="problem()?.of('sets')">
          <il-token-field
            label="Other sets"
            for="set-sets"
            [value]="typed.sets"
            [source]="tokens.sets()"
            [readonly]="!session.mayChange()"
            (typed)="put({ sets: $event })"
          />
        </il-cell>
        <il-text-cell
          label="What it is for"
          for="set-purpose"
          hint="Found by it"
          [flaw]="problem()?.of('purpose')"
          [readonly]="!session.mayChange()"
          [value]="typed.purpose"
          (done)="put({ purpose: $event })"
        />
        @if (set() && everywhere.atEstate()) {
          <il-at-sites kind="set" stage="rules" [id]="set()!.id" />
        }
        @if (wrong().length > 0) {
          <il-cell label="Lines that cannot be read" size="full">
            <ul class="flaw" role="alert">
              @for (each of wrong().slice(0, told); track each) {
                <li>{{ each }}</li>
              }
              @if (wrong().length > told) {
                <li>and {{ wrong().length - told }} more</li>
              }
            </ul>
            <p class="hint">Nothing of the list is lost or taken until all its lines can be read.</p>
          </il-cell>
        }
        @if (set()) {
          <il-cell label="Used by" size="full">
            <p class="value">{{ usedBy() || 'Nothing yet. Write “set ' + set()!.name + '” as an end of a rule.' }}</p>
          </il-cell>
        }
      </div>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    textarea {
      width: 100%;
      border: 1px solid var(--strong);
      background: var(--sheet);
      color: var(--ink);
      resize: vertical;
    }
    ul {
      margin: 0;
      padding-left: 16px;
    }
  `,
})
export class SetSheet {
  private readonly store = inject(SiteStore);
  private readonly facts = inject(RulesFacts);
  protected readonly tokens = inject(TrafficTokens);
  protected readonly session = inject(SessionStore);
  /** Null: a new one. */
  readonly set = input.required<KeptSet | null>();
  /** Whether it is one of the estate's. */
  readonly isShared = input(false);
  readonly closed = output<void>();
  readonly added = output<string>();

  protected readonly told = MOST_TOLD;
  protected readonly fields = [
    { key: 'addresses', label: 'Addresses', hint: 'Hosts, prefixes and ranges, one a line' },
    { key: 'ports', label: 'Ports', hint: '443, 5000-5010; one a line' },
  ] as const;
  protected readonly everywhere = inject(SharedStore);
  /** Whether a new one is to be the estate’s. */
  protected readonly shared = signal(this.everywhere.atEstate());
  protected readonly form = new EditForm<KeptSet, SetText>({
    kept: () => this.set(),
    idOf: ({ id }) => id,
    textOf,
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly note = computed(() =>
    this.set() === null
      ? 'Addresses, ports or both under one name'
      : this.isShared()
        ? 'For every site'
        : 'Of this site',
  );
  /** Lines that are no address or port, each with its number. */
  protected readonly wrong = computed(() => {
    const { addresses, ports } = this.text();
    const bad = (text: string, read: (line: string) => unknown, what: string): string[] =>
      lines(text).flatMap((line, i) => (read(line) === null ? [`${what}, line ${i + 1}: “${line}”`] : []));
    return [...bad(addresses, readAddresses, 'Addresses'), ...bad(ports, readPorts, 'Ports')];
  });
  protected readonly other = computed(() => this.form.other(['name', 'addresses', 'ports', 'sets', 'purpose']));
  protected readonly usedBy = computed(() => {
    const name = this.set()?.name ?? '';
    const rules = this.facts.rows().filter(({ rule }) => uses(rule, name));
    const sets = this.facts.sets().filter(({ set }) => set.sets?.includes(name));
    return [
      ...rules.map(({ rule }) => `the rule “${ruleName(rule)}”`),
      ...sets.map(({ set }) => `the set “${set.name}”`),
    ].join(', ');
  });

  protected putField(key: keyof SetText, value: string): void {
    this.put({ [key]: value });
  }

  protected put(change: Partial<SetText>): void {
    this.form.put(change);
    const set = this.set();
    if (!set || this.wrong().length > 0) return;
    const key = Object.keys(change)[0] as keyof SetText;
    const to = this.content()[key];
    void this.form.send(() =>
      this.store.edit([
        { type: 'set.set', setId: set.id, from: { [key]: set[key] ?? null }, to: { [key]: to }, ...this.scope() },
      ]),
    );
  }

  protected async add(): Promise<void> {
    const id = crypto.randomUUID();
    const of = this.shared() ? { shared: true as const } : { siteId: this.store.siteId()! };
    if (await this.form.send(() => this.store.edit([{ type: 'set.add', set: { id, ...this.content() }, ...of }])))
      this.added.emit(id);
  }

  protected async remove(): Promise<void> {
    const { id } = this.set()!;
    if (await this.form.send(() => this.store.edit([{ type: 'set.remove', setId: id, ...this.scope() }])))
      this.closed.emit();
  }

  private content() {
    const { name, addresses, ports, sets, purpose } = this.text();
    return {
      name,
      purpose: purpose.trim() || null,
      addresses: lines(addresses),
      ports: lines(ports),
      sets: lines(sets),
    };
  }

  private scope() {
    return this.isShared() ? { shared: true as const } : { siteId: this.store.siteId()! };
  }
}
