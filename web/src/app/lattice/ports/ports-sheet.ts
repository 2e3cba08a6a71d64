import { Component, computed, inject, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInputModule } from '@angular/material/input';
import { MatSelectModule } from '@angular/material/select';
import { AIRED, type Operation, type PortDuty, type PortEntry } from '@iron-lattice/core/intent';
import { SessionStore } from '../../session/session-store';
import { attempt, type Problem } from '../../session/problem';
import { SiteStore } from '../../shell/site-store';
import { Turns } from '../../shell/turns';
import { Cell } from '../../ui/cell';
import { ChoiceCell, DIFFERS, type Choice } from '../../ui/choice-cell';
import { Sheet } from '../../ui/sheet';
import { LatticeWork } from '../facts/lattice-work';
import { portRows, type PortRow } from './port-rows';

const FIELDS = [
  {
    key: 'poe',
    label: 'Power',
    options: [
      { value: 'on', label: 'on' },
      { value: 'off', label: 'off' },
    ],
  },
  {
    key: 'priority',
    label: 'When power is short',
    options: [
      { value: 'low', label: 'goes first' },
      { value: 'high', label: 'goes later' },
      { value: 'critical', label: 'goes last' },
    ],
  },
  {
    key: 'speed',
    label: 'Speed',
    options: [
      { value: 'auto', label: 'as both ends agree' },
      ...[10, 100, 1000, 2500, 10_000].map((value) => ({ value, label: `${value} Mb/s` })),
    ],
  },
  {
    key: 'auth',
    label: 'Who may speak',
    options: [
      { value: 'none', label: 'anyone' },
      { value: '802.1X', label: '802.1X' },
      { value: 'mac', label: 'known MAC addresses' },
    ],
  },
  {
    key: 'isolated',
    label: 'Clients of isolated ports',
    options: [
      { value: false, label: 'reach each other' },
      { value: true, label: 'are kept apart' },
    ],
  },
] as const;

/** One port or many: the duty, what they carry, and where they differ from the duty. Changes all that are chosen. */
@Component({
  selector: 'il-ports-sheet',
  imports: [FormsModule, MatButtonModule, MatFormFieldModule, MatInputModule, MatSelectModule, Cell, ChoiceCell, Sheet],
  template: `
    <il-sheet [heading]="heading()" [note]="note()" (closed)="closed.emit()">
      @if (session.mayChange() && usual().length > 0) {
        <button actions mat-stroked-button class="mend" (click)="takeUsual()">
          Give the usual: {{ usual()[0]!.why }}{{ usual().length > 1 ? ' …' : '' }}
        </button>
      }
      <div class="cells">
        @if (locked()) {
          <div class="cell full">
            <p class="soft">{{ locked() }}</p>
          </div>
        }
        <il-choice-cell
          label="Duty"
          for="ports-duty"
          hint="Said once for all ports that have it"
          [disabled]="fixed()"
          [options]="dutyChoices()"
          [value]="common('dutyId')"
          (chosen)="giveDuty($event)"
        />
        <il-choice-cell
          label="Untagged"
          for="ports-untagged"
          [disabled]="fixed()"
          [options]="untaggedChoices()"
          [value]="common('untagged') ?? ''"
          (chosen)="set({ untagged: $event || null })"
        />
        <il-cell label="Tagged" for="ports-tagged" size="wide">
          <mat-form-field>
            <mat-select
              id="ports-tagged"
              aria-label="Tagged"
              multiple
              [disabled]="fixed()"
              [value]="tags()"
              (selectionChange)="setTags($event.value)"
            >
              <mat-option value="all">all of the site</mat-option>
              <mat-option [value]="aired">those of the SSIDs</mat-option>
              @for (segment of segments(); track segment.id) {
                <mat-option [value]="segment.id">{{ segment.name }}</mat-option>
              }
            </mat-select>
          </mat-form-field>
          @if (tags() === null) {
            <p class="hint">They differ; a choice here is given to all.</p>
          }
        </il-cell>
        @for (field of fields(); track field.key) {
          <il-choice-cell
            [label]="field.label"
            [for]="'ports-' + field.key"
            [disabled]="fixed()"
            [options]="field.options"
            [value]="common(field.key)"
            (chosen)="setField(field.key, $event)"
          />
        }
        <il-cell
          label="Broadcasts at most, in %"
          for="ports-storm"
          hint="100: no limit"
          [flaw]="problem()?.of('storm')"
        >
          <mat-form-field class="mono-field">
            <input
              matInput
              id="ports-storm"
              [readonly]="fixed()"
              [ngModel]="common('storm')"
              (change)="setNumber('storm', $event)"
            />
          </mat-form-field>
        </il-cell>
        <il-cell label="Acts as one in group" for="ports-group" hint="Empty: alone" [flaw]="problem()?.of('group')">
          <mat-form-field class="mono-field">
            <input
              matInput
              id="ports-group"
              [readonly]="fixed()"
              [ngModel]="common('group') ?? ''"
              (change)="setNumber('group', $event)"
            />
          </mat-form-field>
        </il-cell>
        @if (session.mayChange() && !locked()) {
          <div class="cell wide acts">
            @if (differing().length > 0) {
              <button mat-stroked-button (click)="forget()">As the duty says again</button>
            }
            <mat-form-field>
              <input
                matInput
                aria-label="Name of a new duty"
                placeholder="New duty from these…"
                [(ngModel)]="dutyName"
              />
            </mat-form-field>
            <button mat-stroked-button [disabled]="rows().length === 0" (click)="newDuty()">Make a duty</button>
            @if (duty(); as duty) {
              <button mat-button (click)="intoDuty(duty)">Change “{{ duty.name }}” itself</button>
            }
          </div>
        }
        @if (message(); as text) {
          <div class="cell full">
            <p class="flaw" role="alert">{{ text }}</p>
          </div>
        }
      </div>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    .acts {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 8px;
    }
    .acts mat-form-field {
      width: 190px;
    }
  `,
})
export class PortsSheet {
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly picked = input.required<ReadonlySet<string>>();
  readonly closed = output<void>();
  private readonly turns = new Turns();

  protected readonly aired = AIRED;
  protected dutyName = '';
  protected readonly problem = signal<Problem | null>(null);
  protected readonly message = computed(() => {
    const problem = this.problem();
    return problem && !problem.flaws.some(({ field }) => field === 'storm' || field === 'group')
      ? problem.message
      : null;
  });
  protected readonly segments = computed(() => this.store.site()?.segments ?? []);
  protected readonly duties = computed(() => this.store.site()?.duties ?? []);
  protected readonly rows = computed((): readonly PortRow[] => {
    const data = this.store.data();
    const all = data ? portRows(data.site, data.roster, this.store.devices()) : [];
    return all.filter((row) => this.picked().has(row.key));
  });
  protected readonly locked = computed(() => this.rows().find((row) => row.locked)?.locked ?? '');
  protected readonly fixed = computed(() => !this.session.mayChange() || this.locked() !== '');
  protected readonly heading = computed(() => {
    const [first, ...more] = this.rows();
    if (!first) return 'No port';
    return more.length === 0 ? `${first.device.name} port ${first.port}` : `${more.length + 1} ports`;
  });
  protected readonly note = computed(() => {
    const [first, ...more] = this.rows();
    if (!first || more.length > 0) return 'What is chosen here is given to all of them.';
    const parts = [
      first.peer ? `${first.peer} is plugged in` : 'nothing of ours is plugged in',
      ...(first.up === null ? [] : [first.up ? `${first.speed} Mb/s` : 'no link']),
      ...(first.watts === null ? [] : [`${first.watts.toFixed(1)} W`]),
    ];
    return parts.join(', ');
  });
  protected readonly dutyChoices = computed((): Choice[] => [
    { value: '', label: 'none' },
    ...this.duties().map(({ id, name }) => ({ value: id, label: name })),
  ]);
  protected readonly untaggedChoices = computed((): Choice[] => [
    { value: '', label: 'nothing' },
    ...this.segments().map(({ id, name }) => ({ value: id, label: name })),
  ]);
  /** Fields with a few values; those of power only where a port can give any. */
  protected readonly fields = computed(() => {
    const powers = this.rows().some((row) => row.mostWatts !== null);
    return FIELDS.filter(({ key }) => powers || (key !== 'poe' && key !== 'priority'));
  });
  /** The duty that all of them have, if they have one. */
  protected readonly duty = computed(() => this.duties().find((each) => each.id === this.common('dutyId')));
  protected readonly differing = computed(() => this.rows().filter((row) => row.duty && row.exceptions.length > 0));
  protected readonly tags = computed((): readonly string[] | null => {
    const lists = this.rows().map(({ setting }) => (setting.tagged === 'all' ? ['all'] : setting.tagged));
    return lists.every((list) => String(list) === String(lists[0])) ? (lists[0] ?? []) : null;
  });
  private readonly allUsual = inject(LatticeWork).answer<'usual'>(() => ({ kind: 'usual' }));
  /** What follows from what is plugged in, for the chosen ports. */
  protected readonly usual = computed(() =>
    (this.allUsual() ?? []).filter((each) => this.picked().has(`${each.deviceId} ${each.port}`)),
  );

  /** The value of a field where all ports agree. */
  protected common(key: 'dutyId' | keyof PortRow['setting']): unknown {
    const values = this.rows().map(({ setting }) => setting[key] ?? (key === 'dutyId' ? '' : null));
    return values.every((value) => value === values[0]) ? values[0] : DIFFERS;
  }

  protected giveDuty(dutyId: string): Promise<void> {
    // A duty is taken whole: what was said of the ports before goes.
    return this.change(() => (dutyId === '' ? null : { dutyId }));
  }

  protected set(fields: Partial<PortEntry>): Promise<void> {
    return this.change((entry) => ({ ...entry, ...fields }));
  }

  protected setField(key: keyof PortEntry, value: unknown): Promise<void> {
    return this.set({ [key]: value });
  }

  protected setTags(chosen: readonly string[]): Promise<void> {
    const before = this.tags() ?? [];
    if (chosen.includes('all') && !before.includes('all')) return this.set({ tagged: 'all' });
    return this.set({ tagged: chosen.filter((id) => id !== 'all') });
  }

  protected setNumber(key: 'storm' | 'group', event: Event): Promise<void> {
    const text = (event.target as HTMLInputElement).value.trim();
    if (text === '') return this.set({ [key]: key === 'group' ? null : 100 });
    return this.set({ [key]: Number(text.replace(',', '.')) });
  }

  /** Drops what is said of the ports alone. */
  protected forget(): Promise<void> {
    return this.change((entry) => (entry?.dutyId ? { dutyId: entry.dutyId } : null));
  }

  protected takeUsual(): Promise<void> {
    return this.make(() => this.usual().map((each) => each.operation));
  }

  /** Makes a duty of what the first port does, and gives it to all of them. */
  protected newDuty(): Promise<void> {
    return this.make(() => {
      const [first] = this.rows();
      if (!first) return [];
      const { dutyId: _duty, group: _group, ...fields } = first.setting;
      const duty: PortDuty = { id: crypto.randomUUID(), name: this.dutyName.trim(), ...fields };
      return [
        { type: 'duty.add', siteId: this.store.siteId()!, duty },
        ...this.rows().map((row): Operation => this.edit(row, { dutyId: duty.id })),
      ];
    }).then(() => void (this.dutyName = this.problem() ? this.dutyName : ''));
  }

  /** Makes what the first port does the duty’s own, for every port that has it. */
  protected intoDuty(duty: PortDuty): Promise<void> {
    return this.make(() => {
      const [first] = this.rows();
      if (!first) return [];
      const { dutyId: _duty, group: _group, ...to } = first.setting;
      const from = Object.fromEntries(Object.keys(to).map((key) => [key, duty[key as keyof PortDuty] ?? null]));
      return [
        { type: 'duty.set', siteId: this.store.siteId()!, dutyId: duty.id, from, to },
        ...this.rows().map((row): Operation => this.edit(row, { dutyId: duty.id })),
      ];
    });
  }

  private change(next: (entry: PortEntry | null) => PortEntry | null): Promise<void> {
    return this.make(() =>
      this.rows()
        .filter((row) => !row.locked)
        .map((row) => this.edit(row, next(this.entryOf(row)))),
    );
  }

  private entryOf = ({ device, port }: PortRow): PortEntry | null =>
    this.store.site()?.ports[device.id]?.[port] ?? null;

  private edit(row: PortRow, to: PortEntry | null): Operation {
    const at = { siteId: this.store.siteId()!, deviceId: row.device.id, port: row.port };
    return { type: 'port.set', ...at, from: this.entryOf(row), to };
  }

  /** @param operations are worked out in their turn, from what the edit before has made. */
  private make(operations: () => readonly Operation[]): Promise<void> {
    return this.turns.take(async () => {
      this.problem.set(null);
      const wanted = operations();
      if (wanted.length > 0) await attempt(null, this.problem, () => this.store.edit(wanted));
    });
  }
}
