import { Component, computed, inject, input, output } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import {
  reachesMeet,
  readMembers,
  writeMembers,
  type AccessClass,
  type ClassFields,
  type Operation,
  type SharedReach,
} from '@iron-lattice/core/intent';
import type { SiteClient } from '@iron-lattice/core/lattice';
import { SessionStore } from '../session/session-store';
import {
  LIMIT_CELLS,
  LIMIT_FIELDS,
  limitFlaw,
  limitsOf,
  limitsReadable,
  limitsText,
  type LimitsText,
} from './class-limits-text';
import { AtSites } from '../shell/at-sites';
import { EditForm } from '../shell/edit-form';
import { ReachCell } from '../shell/reach-cell';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { ChoiceCell } from '../ui/choice-cell';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';

interface ClassText {
  readonly name: string;
  readonly segment: string;
  /** One client a line. */
  readonly members: string;
  /** In Mb/s, and minutes; empty: no limit. */
  readonly limits: LimitsText;
  /** Parted by semicolons or commas. */
  readonly groups: string;
  readonly otherwise: boolean;
  readonly reach: SharedReach;
  readonly purpose: string;
}

/** Wrong lines, and SSIDs, that are told one by one. */
const MOST_TOLD = 5;

/** An access class's sheet, new or there already. */
@Component({
  selector: 'il-class-sheet',
  imports: [FormsModule, MatButtonModule, MatCheckboxModule, AtSites, Cell, ChoiceCell, ReachCell, Sheet, TextCell],
  template: `
    <il-sheet
      [focusFirst]="accessClass() === null"
      [heading]="accessClass()?.name ?? 'New access class'"
      note="What clients get that are known, whatever SSID or port asks them."
      (closed)="closed.emit()"
    >
      @if (accessClass() && session.mayChange()) {
        <button actions mat-stroked-button [disabled]="form.busy()" (click)="copy()">Make a copy</button>
      }
      @if (accessClass() && session.mayChange()) {
        <button actions mat-stroked-button (click)="remove()">Remove class</button>
      }
      @if (session.mayChange()) {
        <button
          actions
          mat-flat-button
          type="submit"
          form="class-fields"
          [disabled]="form.busy() || !form.differs() || wrong() !== '' || nowhere() || !readable()"
        >
          {{ accessClass() ? 'Put into the draft' : 'Add class' }}
        </button>
      }
      <form id="class-fields" (ngSubmit)="keep()">
        <div class="cells">
          <il-text-cell
            label="Name"
            for="class-name"
            hint="Rules name it: class {{ text().name || 'Scanners' }}"
            [flaw]="problem()?.of('name')"
            [most]="60"
            [readonly]="!session.mayChange()"
            [value]="text().name"
            (typed)="set({ name: $event })"
          />
          <il-choice-cell
            label="Segment its clients join"
            for="class-segment"
            [options]="segments()"
            [value]="text().segment"
            [disabled]="!session.mayChange()"
            hint="Each site looks it up by name; where it is missing they are not let in"
            [flaw]="problem()?.of('segment')"
            (chosen)="set({ segment: $event })"
          />
          <il-reach-cell
            for="class-reach"
            [of]="accessClass()?.id ?? null"
            [reach]="text().reach"
            [disabled]="!session.mayChange()"
            (chosen)="set({ reach: $event })"
          />
          <il-text-cell
            label="Known clients"
            for="class-members"
            size="wide"
            hint="One a line: MAC address, then what it is. A MAC address tells who somebody says to be; it proves nothing."
            [flaw]="wrong() || problem()?.of('members')"
            [mono]="true"
            [rows]="5"
            example="02:1a:00:00:00:07 Pier gate"
            [readonly]="!session.mayChange()"
            [value]="text().members"
            (typed)="set({ members: $event })"
          />
          <il-text-cell
            label="Groups of users"
            for="class-groups"
            size="wide"
            hint="Of users that this controller keeps: the first of a user’s groups that a class has decides. Parted by semicolons"
            example="Deck; Engine"
            [flaw]="problem()?.of('groups')"
            [readonly]="!session.mayChange()"
            [value]="text().groups"
            (typed)="set({ groups: $event })"
          />
          <il-cell label="Everybody else" size="wide" [hint]="whereElse()" [flaw]="problem()?.of('otherwise')">
            <mat-checkbox
              [disabled]="!session.mayChange()"
              [checked]="text().otherwise"
              (change)="set({ otherwise: $event.checked })"
              >whom nothing gives another class has this one</mat-checkbox
            >
          </il-cell>
          <il-text-cell
            label="What it is for"
            for="class-purpose"
            size="wide"
            hint="Found by it"
            [flaw]="problem()?.of('purpose')"
            [readonly]="!session.mayChange()"
            [value]="text().purpose"
            (typed)="set({ purpose: $event })"
          />
          @for (each of limitCells; track each.field) {
            <il-text-cell
              [label]="each.label"
              [for]="'class-' + each.field"
              [hint]="each.hint"
              [mono]="true"
              [flaw]="limitFlaw(text().limits, each.field, problem())"
              [readonly]="!session.mayChange()"
              [value]="text().limits[each.field]"
              (typed)="limit(each.field, $event)"
            />
          }
          @if (accessClass() && shared.atEstate()) {
            <il-at-sites kind="class" stage="entry" [id]="accessClass()!.id" />
          }
          @if (here().length > 0) {
            <il-cell label="Here now" size="wide">
              <ul class="here">
                @for (client of here(); track client.mac) {
                  <li>
                    {{ nameOf(client) }}: {{ client.at!.deviceName }}
                    {{ client.at!.ssid ? '“' + client.at!.ssid + '”' : 'port ' + client.at!.port }}, VLAN
                    <span class="mono">{{ client.vlan }}</span>,
                    <span class="mono">{{ client.address ?? 'no address' }}</span>{{
                      client.entered ? ', as ' + client.entered.user : ''
                    }}, {{ byWhat(client) }}
                  </li>
                }
              </ul>
            </il-cell>
          }
          @if (other(); as message) {
            <p class="cell full flaw" role="alert">{{ message }}</p>
          }
        </div>
      </form>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    .here {
      list-style: none;
      margin: 0;
      padding: 0;
    }
  `,
})
export class ClassSheet {
  private readonly store = inject(SiteStore);
  protected readonly shared = inject(SharedStore);
  protected readonly session = inject(SessionStore);
  /** Null for a new one. */
  readonly accessClass = input.required<AccessClass | null>();
  /** Its clients that are at the site now. */
  readonly here = input<readonly SiteClient[]>([]);
  readonly closed = output<void>();
  /** Id of the class that is in the draft now. */
  readonly kept = output<string>();

  protected readonly form = new EditForm<AccessClass, ClassText>({
    kept: () => this.accessClass(),
    idOf: ({ id }) => id,
    textOf: (each) => this.textOf(each),
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly segments = computed(() => this.shared.joinChoices(this.text().segment, false));
  /** Whether it would reach no site at all. */
  protected readonly nowhere = computed(() => {
    const { reach } = this.text();
    return reach.kind === 'sites' && reach.siteIds.length === 0;
  });
  private readonly list = computed(() => readMembers(this.text().members));
  /** What is wrong with lines of the list, in words. */
  protected readonly wrong = computed(() => {
    const { wrong } = this.list();
    const told = wrong.slice(0, MOST_TOLD).map(({ line, why }) => `Line ${line}: ${why}.`);
    return [...told, ...(wrong.length > MOST_TOLD ? [`And ${wrong.length - MOST_TOLD} more.`] : [])].join(' ');
  });

  /** Where being the class of everybody else means something. */
  protected readonly whereElse = computed(() => {
    const { reach } = this.text();
    const names = (this.shared.estate()?.ssids ?? [])
      .filter((ssid) => ssid.byClass && reachesMeet(ssid.reach, reach))
      .map(({ name }) => `“${name}”`);
    const told = [
      ...names.slice(0, MOST_TOLD),
      ...(names.length > MOST_TOLD ? [`${names.length - MOST_TOLD} more`] : []),
    ];
    const ssids = names.length === 0 ? '' : `on ${told.join(', ')}, instead of the segment of the SSID; `;
    return `Whoever has none ${ssids}at ports that let somebody in of whom no class is said. Asked before: the key, the list, a RADIUS server`;
  });

  protected readonly other = computed(() =>
    this.form.other(['name', 'segment', 'members', 'groups', 'otherwise', 'purpose', ...LIMIT_FIELDS]),
  );
  protected readonly limitCells = LIMIT_CELLS;
  protected readonly limitFlaw = limitFlaw;
  protected readonly readable = computed(() => limitsReadable(this.text().limits));

  protected set(change: Partial<ClassText>): void {
    this.form.put(change);
  }

  protected limit(field: keyof LimitsText, typed: string): void {
    this.set({ limits: { ...this.text().limits, [field]: typed } });
  }

  protected nameOf({ mac, name }: SiteClient): string {
    return this.accessClass()?.members.find((each) => each.mac === mac)?.name || name || mac;
  }

  /** What gave it the class, in words. */
  protected byWhat({ mac, named, key, keyedBy, entered }: SiteClient): string {
    const { members = [], otherwise } = this.accessClass() ?? {};
    if (named) return `${otherwise ? 'let in' : 'chosen'} by ${named.server}`;
    if (!entered && members.some((each) => each.mac === mac)) return 'listed';
    // A key that leads to the class of everybody else is told from one that leads nowhere by nothing: both are here for that.
    if (!otherwise && keyedBy !== undefined) return `by its key, named by ${keyedBy}`;
    if (!otherwise && key !== undefined) return 'by its key';
    // What is live may say so where the draft does not any more.
    return 'as everybody else';
  }

  protected async keep(): Promise<void> {
    if (this.wrong() !== '' || !this.form.differs() || this.nowhere() || !this.readable()) return;
    await this.form.send(async () => {
      const each = this.accessClass();
      const id = each?.id ?? crypto.randomUUID();
      await this.store.edit([each ? this.change(each) : { type: 'class.add', accessClass: { id, ...this.fields() } }]);
      this.kept.emit(id);
    });
  }

  /** Another class with the same segment, reach and purpose: clients and groups have one class each, and stay where they are. */
  protected async copy(): Promise<void> {
    const { members: _members, groups: _groups, otherwise: _otherwise, ...same } = this.accessClass()!;
    const taken = new Set((this.shared.estate()?.classes ?? []).map(({ name }) => name.toLowerCase()));
    let number = 2;
    while (taken.has(`${same.name} ${number}`.toLowerCase())) number++;
    const accessClass: AccessClass = { ...same, id: crypto.randomUUID(), name: `${same.name} ${number}`, members: [] };
    await this.form.send(async () => {
      await this.store.edit([{ type: 'class.add', accessClass }]);
      this.kept.emit(accessClass.id);
    });
  }

  protected async remove(): Promise<void> {
    if (await this.store.tryEdit([{ type: 'class.remove', classId: this.accessClass()!.id }])) this.closed.emit();
  }

  private fields(): ClassFields {
    const { name, segment, groups: typed, otherwise, limits, reach, purpose } = this.text();
    const groups = typed.split(/[;,]/).flatMap((each) => each.trim() || []);
    const said = { ...limitsOf(limits), otherwise: otherwise || null, reach, purpose: purpose.trim() || null };
    return { name, segment, members: this.list().members, groups: groups.length > 0 ? groups : null, ...said };
  }

  private change(each: AccessClass): Operation {
    const change = this.form.change<ClassFields>(this.fields(), (kept) => kept);
    return { type: 'class.set', classId: each.id, ...change };
  }

  private textOf(each: AccessClass | null): ClassText {
    const limits = limitsText(each);
    const empty = { name: '', segment: '', members: '', groups: '', otherwise: false, purpose: '' };
    if (!each) return { ...empty, limits, reach: this.shared.newReach() };
    const { name, segment, members, groups, otherwise, reach, purpose } = each;
    const said = {
      ...{ groups: (groups ?? []).join('; '), otherwise: otherwise ?? false },
      ...{ reach, purpose: purpose ?? '' },
    };
    return { name, segment, members: writeMembers(members), limits, ...said };
  }
}
