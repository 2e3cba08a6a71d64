import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input, linkedSignal, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { parseIp, parsePrefix } from '@iron-lattice/core/address';
import type { RosterDevice, Segment } from '@iron-lattice/core/intent';
import {
  changeOf,
  moveSegment,
  proposeAddresses,
  proposeSegment6,
  proposeServerAddress,
  type SegmentMove,
  type SegmentProposal,
} from '@iron-lattice/core/lattice';
import { firstValueFrom } from 'rxjs';
import { SessionStore } from '../../session/session-store';
import { Problem } from '../../session/problem';
import { EditForm } from '../../shell/edit-form';
import { SiteStore } from '../../shell/site-store';
import { Turns } from '../../shell/turns';
import { Cell } from '../../ui/cell';
import { SegmentTag } from '../../ui/segment-tag';
import { Sheet } from '../../ui/sheet';
import { IsolationFields } from './isolation-fields';
import { SegmentCaps } from './segment-caps';
import { SegmentRouted } from './segment-routed';
import { SegmentSwitches, withSwitches } from './segment-switches';
import { SECTIONS, SegmentFields, sectionOf, type Section } from './segment-fields';
import { EMPTY_TEXT, segmentOf, textOf, type SegmentText } from './segment-text';
import { ServedFrom } from './served-from';
import { pressBox, servedBy } from './served-tokens';

/** A segment, and the devices whose names it is read by. */
interface Seen {
  readonly segment: Segment;
  readonly roster: readonly RosterDevice[];
}

/** A segment's sheet: every value is edited in place; a change of the subnet carries along what lies in it. */
@Component({
  selector: 'il-segment-sheet',
  imports: [
    MatButtonModule,
    Cell,
    IsolationFields,
    SegmentCaps,
    Sheet,
    SegmentFields,
    SegmentRouted,
    SegmentSwitches,
    SegmentTag,
    ServedFrom,
  ],
  template: `
    <il-sheet
      [heading]="segment().name"
      [note]="'segment ' + segment().vlan + ' at ' + store.site()?.name"
      (closed)="closed.emit()"
    >
      @if (store.marks().get(segment().id); as mark) {
        <il-segment-tag lead [mark]="mark" />
      }
      <div actions class="choices" role="group" aria-label="Part of the sheet">
        @for (each of sections; track each) {
          <button type="button" [attr.aria-pressed]="section() === each" (click)="section.set(each)">
            {{ each }}
            @if (flawed().has(each)) {
              <b class="bad" aria-label="has a flaw">!</b>
            }
          </button>
        }
      </div>
      @if (session.mayChange() && segment().id !== store.site()?.managementId) {
        <button actions mat-stroked-button (click)="remove()">Remove segment</button>
      }
      <form (submit)="keep($event)" (focusout)="keep()">
        <div class="cells">
          @if (section(); as part) {
            @if (part === 'Served from') {
              <il-served-from
                [text]="text()"
                [roster]="roster()"
                [flaws]="flaws()"
                [readonly]="!session.mayChange()"
                [onCabling]="onCabling()"
                (changed)="serve($event)"
                (seek)="seek.emit()"
              />
            } @else if (part === 'Isolation') {
              <il-isolation-fields
                [text]="text()"
                [readonly]="!session.mayChange()"
                (changed)="form.put($event); keep()"
              />
            } @else if (part === 'Caps') {
              <il-segment-caps [segment]="current()" />
            } @else {
              <il-segment-fields
                [text]="text()"
                [section]="part"
                [readonly]="!session.mayChange()"
                [flaws]="flaws()"
                (changed)="form.put($event)"
              />
            }
          }
          @if (section() === 'Segment') {
            <il-segment-routed [segment]="current()" />
            <il-segment-switches [segment]="current()" />
          }
          @if (session.mayChange() && hasFields()) {
            <il-cell label="From the address plan">
              <button mat-stroked-button type="button" (click)="derive()">Derive what is empty</button>
            </il-cell>
          }
          @if (moves().length > 0) {
            <il-cell label="Goes along with the subnet" size="wide">
              <ul>
                @for (move of moves(); track $index) {
                  <li [class.bad]="move.to === null">
                    {{ move.what }} <span class="mono">{{ move.from }} → {{ move.to ?? 'no place there' }}</span>
                  </li>
                }
              </ul>
            </il-cell>
          } @else if (section() === 'Segment') {
            <il-cell label="In words" size="wide">
              <div class="value">{{ words() }}</div>
            </il-cell>
          }
          @if (problem()?.flaws?.length === 0) {
            <p class="cell full flaw" role="alert">{{ problem()!.message }}</p>
          }
        </div>
        <button type="submit" class="visually-hidden" tabindex="-1">Keep</button>
      </form>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    ul {
      margin: 0;
      padding: 0;
      list-style: none;
      columns: 2 260px;
    }
  `,
})
export class SegmentSheet {
  private readonly http = inject(HttpClient);
  protected readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly segment = input.required<Segment>();
  /** What the grid's row says of it, read aloud. */
  readonly inWords = input('');
  /** Whether the cabling is in sight, to choose boxes on. */
  readonly onCabling = input(false);
  readonly closed = output<void>();
  /** Somebody wants to choose boxes on the cabling. */
  readonly seek = output<void>();

  protected readonly sections = SECTIONS;
  /** Whether what is typed in this part can follow from the address plan. */
  protected readonly hasFields = computed(() => !['Served from', 'Isolation', 'Caps'].includes(this.section()));
  protected readonly section = linkedSignal<boolean, Section>({
    source: this.onCabling,
    computation: (on, previous) => (on ? 'Served from' : (previous?.value ?? 'Segment')),
  });
  protected readonly roster = computed(() => this.store.data()?.roster ?? []);
  protected readonly form = new EditForm<Seen, SegmentText>({
    kept: computed(() => ({ segment: this.current(), roster: this.roster() })),
    idOf: ({ segment }) => segment.id,
    textOf: (seen) => (seen ? textOf(seen.segment, seen.roster) : EMPTY_TEXT),
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  /** Edits are sent one after the other: each says what the one before made. */
  private readonly turns = new Turns();
  protected readonly flaws = computed(() => this.problem()?.flaws ?? []);
  protected readonly flawed = computed(() => new Set(this.flaws().map(({ field }) => sectionOf(field))));
  protected readonly words = computed(() => this.inWords() || `${this.segment().name} is not in the grid yet.`);
  /** As the draft has it this moment; what was handed in follows a little later. */
  protected readonly current = computed(
    () => this.store.site()?.segments.find((each) => each.id === this.segment().id) ?? this.segment(),
  );
  /** The segment in the subnet that is typed, while it is another than the segment's. */
  private readonly moved = computed(() => {
    const segment = this.current();
    const typed = this.text().subnet.trim();
    if (typed === segment.subnet || !parsePrefix(typed)) return null;
    const lives = segment.id === this.store.site()?.managementId;
    return moveSegment(segment, typed, lives ? this.roster() : []);
  });
  protected readonly moves = computed((): readonly SegmentMove[] => this.moved()?.moves ?? []);

  /** Puts what was typed into the draft, if it differs. */
  protected keep(event?: Event): Promise<void> {
    event?.preventDefault();
    return this.turns.take(() => this.send());
  }

  private async send(): Promise<void> {
    if (!this.session.mayChange() || !this.form.differs()) return;
    const [segment, roster] = [this.current(), this.roster()];
    const { segment: wanted, flaws } = segmentOf(segment.id, this.wanted(), roster);
    const own = (of: Segment): Segment => withSwitches(of, segment);
    if (flaws.length > 0) return this.problem.set(new Problem('segment.unread', flaws[0]!.message, flaws));
    const before = this.form.before();
    const isKept = JSON.stringify(before) === JSON.stringify(textOf(segment, roster));
    const seen = isKept ? segment : own(segmentOf(segment.id, before, roster).segment);
    const operation = changeOf(this.store.siteId()!, seen, own(wanted));
    await this.form.send(async () => (operation ? this.store.edit([operation]) : undefined));
  }

  /** What was typed, on top of what goes along with a subnet that was. */
  private wanted(): SegmentText {
    const [text, moved] = [this.text(), this.moved()];
    if (!moved) return text;
    const original = textOf(this.current(), this.roster());
    const typed = Object.entries(text).filter(
      ([key, value]) => key !== 'subnet' && value !== original[key as keyof SegmentText],
    );
    return { ...textOf(moved.segment, this.roster()), ...Object.fromEntries(typed) };
  }

  /** A box was pressed on the cabling. */
  press(deviceId: string): void {
    const device = this.roster().find(({ id }) => id === deviceId);
    if (device && this.session.mayChange()) this.serve({ served: pressBox(this.text().served, device, this.roster()) });
  }

  /** Other boxes give the addresses: kept at once, but that nobody does when somebody goes on. */
  protected serve(change: Partial<SegmentText>): void {
    const before = this.text();
    this.form.put(change);
    const { served } = this.text();
    if (served === before.served || served === '') return;
    if (before.served === '') this.form.put(this.range());
    if (servedBy(served, this.roster()) === 'switch' && this.text().servedAddress === '')
      this.form.put({ servedAddress: proposeServerAddress(this.current()) ?? '' });
    void this.keep();
  }

  /** Fills what is empty from the address plan: subnet, gateway, range; the IPv6 prefix where that part is shown. */
  protected async derive(): Promise<void> {
    const [site, draft, text] = [this.store.site(), this.store.draft(), this.text()];
    if (!site || !draft) return;
    if (this.section() === 'IPv6') {
      const { prefix, gateway } = proposeSegment6(site, this.segment().vlan);
      if (text.v6prefix.trim() === '') this.form.put({ v6prefix: prefix, v6gateway: gateway });
      return this.keep();
    }
    const { subnet, gateway } = text;
    const params = { vlan: text.vlan, ...(subnet ? { subnet } : {}), ...(gateway ? { gateway } : {}) };
    const url = `/api/drafts/${draft.id}/sites/${site.id}/segment-proposal`;
    await this.store.attempt(async () => {
      const found = await firstValueFrom(this.http.get<SegmentProposal>(url, { params }));
      const served = text.served !== '';
      this.form.put({
        subnet: subnet || found.subnet,
        gateway: gateway || found.gateway,
        first: text.first || (served ? (found.addresses?.first ?? '') : ''),
        last: text.last || (served ? (found.addresses?.last ?? '') : ''),
        leaseHours: text.leaseHours || String((found.addresses?.leaseSeconds ?? 28_800) / 3600),
      });
      await this.keep();
    });
  }

  /** A range to give from, where none is said. */
  private range(): Partial<SegmentText> {
    const { subnet, gateway, first } = this.text();
    const [prefix, router] = [parsePrefix(subnet), parseIp(gateway)];
    const range = first === '' && prefix && router && proposeAddresses(prefix, router);
    return range ? { first: range.first, last: range.last, leaseHours: String(range.leaseSeconds / 3600) } : {};
  }

  protected async remove(): Promise<void> {
    const { id } = this.segment();
    if (await this.store.tryEdit([{ type: 'segment.remove', siteId: this.store.siteId()!, segmentId: id }]))
      this.closed.emit();
  }
}
