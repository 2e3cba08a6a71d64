import { Component, computed, inject, input, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { USUAL_AGAIN, USUAL_QUIET } from '@iron-lattice/core/document';
import { AIRED, type Operation, type PortDuty, type PortEntry } from '@iron-lattice/core/intent';
import { SessionStore } from '../../session/session-store';
import { EditForm } from '../../shell/edit-form';
import { SiteStore } from '../../shell/site-store';
import { Turns } from '../../shell/turns';
import { ChoiceCell, DIFFERS, type Choice } from '../../ui/choice-cell';
import { Sheet } from '../../ui/sheet';
import { LatticeWork } from '../facts/lattice-work';
import { portRows, type PortRow } from './port-rows';
import { PortShared } from './port-shared';
import { ASKED_NUMBERS, FALLS, FIELDS, HOSTS, NUMBERS, textOf, type Picked, type PortsText } from './ports-text';
import { TextCell } from '../../ui/text-cell';

/** One port or many: the duty, what they carry, and where they differ from the duty. Changes all that are chosen. */
@Component({
  selector: 'il-ports-sheet',
  imports: [MatButtonModule, ChoiceCell, PortShared, Sheet, TextCell],
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
          [value]="text().dutyId"
          (chosen)="giveDuty($event)"
        />
        <il-choice-cell
          label="Untagged"
          for="ports-untagged"
          [disabled]="fixed()"
          [options]="untaggedChoices()"
          [value]="text().untagged"
          (chosen)="set({ untagged: $event }, { untagged: $event || null })"
        />
        <il-choice-cell
          label="Tagged"
          for="ports-tagged"
          size="wide"
          [several]="true"
          [hint]="text().tagged === null ? 'They differ; a choice here is given to all.' : ''"
          [disabled]="fixed()"
          [options]="taggedChoices()"
          [value]="text().tagged"
          (chosen)="setTags($event)"
        />
        @for (field of fields(); track field.key) {
          <il-choice-cell
            [label]="field.label"
            [for]="'ports-' + field.key"
            [disabled]="fixed()"
            [options]="field.options"
            [value]="text()[field.key]"
            (chosen)="setField(field.key, $event)"
          />
        }
        @if (asking()) {
          <il-choice-cell
            label="At once"
            for="ports-hosts"
            [disabled]="fixed()"
            [options]="hosts"
            [value]="text().hosts"
            [flaw]="problem()?.of('hosts')"
            (chosen)="setHosts($event)"
          />
          @if (text().hosts === 'phone') {
            <il-choice-cell
              label="Segment of desk phones"
              for="ports-voice"
              hint="Their frames carry its tag"
              [disabled]="fixed()"
              [options]="untaggedChoices()"
              [value]="text().voice ?? ''"
              [flaw]="problem()?.of('voice')"
              (chosen)="set({ voice: $event }, { voice: $event || null })"
            />
          }
          @for (fall of falls; track fall.key) {
            <il-choice-cell
              [label]="fall.label"
              [for]="'ports-' + fall.key"
              [hint]="fall.hint"
              [disabled]="fixed()"
              [options]="fallChoices()"
              [value]="text()[fall.key] ?? ''"
              [flaw]="problem()?.of(fall.key)"
              (chosen)="setFall(fall.key, $event)"
            />
          }
          @for (field of askedNumbers; track field.key) {
            <il-text-cell
              [label]="field.label"
              [for]="'ports-' + field.key"
              [hint]="field.hint"
              [flaw]="problem()?.of(field.key)"
              [mono]="true"
              [readonly]="fixed()"
              [value]="text()[field.key]"
              (done)="setNumber(field.key, $event)"
            />
          }
        }
        <il-port-shared
          [hours]="text().hours"
          [portal]="text().portal"
          [asks]="text().auth !== 'none'"
          [nowhere]="text().auth === 'none' && text().untagged === ''"
          [fixed]="fixed()"
          [hoursFlaw]="problem()?.of('hours')"
          [portalFlaw]="problem()?.of('portal')"
          (chosen)="set($event, $event)"
        />
        @for (field of numbers; track field.key) {
          <il-text-cell
            [label]="field.label"
            [for]="'ports-' + field.key"
            [hint]="field.hint"
            [flaw]="problem()?.of(field.key)"
            [mono]="true"
            [readonly]="fixed()"
            [value]="text()[field.key]"
            (done)="setNumber(field.key, $event)"
          />
        }
        @if (duty(); as duty) {
          <il-text-cell
            [label]="'What “' + duty.name + '” is for'"
            for="ports-purpose"
            size="wide"
            example="in your words…"
            hint="Said of the duty, for all ports that have it"
            [flaw]="problem()?.of('purpose')"
            [readonly]="fixed()"
            [value]="duty.purpose ?? ''"
            (done)="say(duty, $event)"
          />
        }
        @if (session.mayChange() && !locked()) {
          <il-text-cell
            label="As a duty of its own"
            for="ports-new-duty"
            [size]="duty() ? 'full' : 'wide'"
            example="New duty from these…"
            [value]="dutyName()"
            (typed)="dutyName.set($event)"
            (entered)="newDuty()"
          >
            <button beside mat-stroked-button [disabled]="rows().length === 0" (click)="newDuty()">Make a duty</button>
            <!-- What comes and goes stands below: nothing moves under the pointer. -->
            @if (duty(); as duty) {
              <button mat-button (click)="intoDuty(duty)">Change “{{ duty.name }}” itself</button>
            }
            @if (differing().length > 0) {
              <button mat-stroked-button (click)="forget()">As the duty says again</button>
            }
          </il-text-cell>
        }
        @if (message(); as text) {
          <p class="cell full flaw" role="alert">{{ text }}</p>
        }
      </div>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class PortsSheet {
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly picked = input.required<ReadonlySet<string>>();
  readonly closed = output<void>();
  private readonly turns = new Turns();

  protected readonly numbers = NUMBERS;
  protected readonly dutyName = signal('');
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
  protected readonly hosts = HOSTS;
  protected readonly falls = FALLS;
  protected readonly askedNumbers = ASKED_NUMBERS;
  /** Whether any of them asks who its clients are. */
  protected readonly asking = computed(() => this.rows().some(({ setting }) => setting.auth !== 'none'));
  protected readonly fallChoices = computed((): Choice[] => [
    { value: '', label: 'is not let in' },
    ...this.segments().map(({ id, name }) => ({ value: id, label: `joins ${name}` })),
  ]);
  protected readonly taggedChoices = computed((): Choice[] => [
    { value: 'all', label: 'all of the site' },
    { value: AIRED, label: 'those of the SSIDs' },
    ...this.segments().map(({ id, name }) => ({ value: id, label: name })),
  ]);
  /** Fields with a few values; those of power only where a port can give any. */
  protected readonly fields = computed(() => {
    const powers = this.rows().some((row) => row.mostWatts !== null);
    return FIELDS.filter(({ key }) => powers || (key !== 'poe' && key !== 'priority'));
  });
  protected readonly form = new EditForm<Picked, PortsText>({
    kept: computed(() => ({ key: [...this.picked()].sort().join(), rows: this.rows() })),
    idOf: ({ key }) => key,
    textOf: (picked) => textOf(picked?.rows ?? []),
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly message = computed(() =>
    this.form.other([
      'purpose',
      'hours',
      'portal',
      'hosts',
      'voice',
      ...[...NUMBERS, ...FALLS, ...ASKED_NUMBERS].map(({ key }) => key),
    ]),
  );
  /** The duty that all of them have, if they have one. */
  protected readonly duty = computed(() => this.duties().find((each) => each.id === this.text().dutyId));
  protected readonly differing = computed(() => this.rows().filter((row) => row.duty && row.exceptions.length > 0));
  private readonly allUsual = inject(LatticeWork).answer<'usual'>(() => ({ kind: 'usual' }));
  /** What follows from what is plugged in, for the chosen ports. */
  protected readonly usual = computed(() =>
    (this.allUsual() ?? []).filter((each) => this.picked().has(`${each.deviceId} ${each.port}`)),
  );

  protected giveDuty(dutyId: string): Promise<void> {
    // A duty is taken whole: what was said of the ports before goes.
    return this.change({ dutyId }, () => (dutyId === '' ? null : { dutyId }));
  }

  /** @param shown what the form shows of it. */
  protected set(shown: Partial<PortsText>, fields: Partial<PortEntry>): Promise<void> {
    return this.change(shown, (entry) => ({ ...entry, ...fields }));
  }

  protected setField(key: (typeof FIELDS)[number]['key'], value: unknown): Promise<void> {
    return this.set({ [key]: value }, { [key]: value });
  }

  protected setTags(chosen: readonly string[]): Promise<void> {
    const before = this.text().tagged ?? [];
    const all = chosen.includes('all') && !before.includes('all');
    const tagged = all ? ['all'] : chosen.filter((id) => id !== 'all');
    return this.set({ tagged }, { tagged: all ? 'all' : tagged });
  }

  protected setFall(key: (typeof FALLS)[number]['key'], id: string): Promise<void> {
    return this.set({ [key]: id }, { [key]: id || null });
  }

  /** Phones need a segment: one whose name says so is taken, else it is asked for. */
  protected setHosts(hosts: 'several' | 'one' | 'phone'): Promise<void> {
    const voice = this.text().voice || (this.segments().find(({ name }) => /phone|voice/i.test(name))?.id ?? null);
    const more = hosts === 'phone' ? { voice: voice === DIFFERS ? null : (voice as string | null) } : {};
    return this.set({ hosts, ...more }, { hosts, ...more });
  }

  protected setNumber(key: 'storm' | 'group' | 'quiet' | 'again', typed: string): Promise<void> {
    const text = typed.trim();
    const none = { group: null, storm: 100, quiet: USUAL_QUIET, again: USUAL_AGAIN }[key];
    return this.set({ [key]: typed }, { [key]: text === '' ? none : Number(text.replace(',', '.')) });
  }

  /** Drops what is said of the ports alone. */
  protected forget(): Promise<void> {
    return this.change({}, (entry) => (entry?.dutyId ? { dutyId: entry.dutyId } : null));
  }

  protected takeUsual(): Promise<boolean> {
    return this.make(() => this.usual().map((each) => each.operation));
  }

  /** Makes a duty of what the first port does, and gives it to all of them. */
  protected newDuty(): Promise<void> {
    return this.make(() => {
      const [first] = this.rows();
      if (!first) return [];
      const { dutyId: _duty, group: _group, ...fields } = first.setting;
      const duty: PortDuty = { id: crypto.randomUUID(), name: this.dutyName().trim(), ...fields };
      return [
        { type: 'duty.add', siteId: this.store.siteId()!, duty },
        ...this.rows().map((row): Operation => this.edit(row, { dutyId: duty.id })),
      ];
    }).then((done) => void (done && this.dutyName.set('')));
  }

  /** Makes what the first port does the duty’s own, for every port that has it. */
  protected intoDuty(duty: PortDuty): Promise<boolean> {
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

  /** Says what a duty is for. */
  protected say({ id: dutyId, purpose = null }: PortDuty, typed: string): Promise<boolean> {
    const to = typed.trim() || null;
    if (to === purpose) return Promise.resolve(true);
    const change = { from: { purpose }, to: { purpose: to } };
    return this.make(() => [{ type: 'duty.set', siteId: this.store.siteId()!, dutyId, ...change }]);
  }

  private async change(shown: Partial<PortsText>, next: (entry: PortEntry | null) => PortEntry | null): Promise<void> {
    this.form.put(shown);
    await this.make(() =>
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
  private make(operations: () => readonly Operation[]): Promise<boolean> {
    return this.turns.take(() =>
      this.form.send(async () => {
        const wanted = operations();
        if (wanted.length > 0) await this.store.edit(wanted);
      }),
    );
  }
}
