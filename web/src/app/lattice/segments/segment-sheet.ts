import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input, linkedSignal, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { parseIp, parsePrefix } from '@iron-lattice/core/address';
import type { Segment } from '@iron-lattice/core/intent';
import {
  changeOf,
  moveSegment,
  proposeAddresses,
  proposeSegment6,
  type SegmentMove,
  type SegmentProposal,
} from '@iron-lattice/core/lattice';
import { firstValueFrom } from 'rxjs';
import { SessionStore } from '../../session/session-store';
import { Problem, problemOf } from '../../session/problem';
import { SiteStore } from '../../shell/site-store';
import { Turns } from '../../shell/turns';
import { SegmentTag } from '../../ui/segment-tag';
import { Sheet } from '../../ui/sheet';
import { IsolationFields } from './isolation-fields';
import { SECTIONS, SegmentFields, sectionOf, type Section } from './segment-fields';
import { segmentOf, textOf, type SegmentText } from './segment-text';
import { ServedFrom } from './served-from';

/** A segment's sheet: every value is edited in place; a change of the subnet carries along what lies in it. */
@Component({
  selector: 'il-segment-sheet',
  imports: [MatButtonModule, IsolationFields, Sheet, SegmentFields, SegmentTag, ServedFrom],
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
                (textChange)="placed($event)"
                [roster]="store.data()?.roster ?? []"
                [flaws]="flaws()"
                [readonly]="!session.mayChange()"
              />
            } @else if (part === 'Isolation') {
              <il-isolation-fields [(text)]="text" [readonly]="!session.mayChange()" (changed)="keep()" />
            } @else {
              <il-segment-fields [(text)]="text" [section]="part" [readonly]="!session.mayChange()" [flaws]="flaws()" />
            }
          }
          @if (session.mayChange() && section() !== 'Served from' && section() !== 'Isolation') {
            <div class="cell">
              <span class="label">From the address plan</span>
              <button mat-stroked-button type="button" (click)="derive()">Derive what is empty</button>
            </div>
          }
          @if (moves().length > 0) {
            <div class="cell wide moves">
              <span class="label">Goes along with the subnet</span>
              <ul>
                @for (move of moves(); track $index) {
                  <li [class.bad]="move.to === null">
                    {{ move.what }} <span class="mono">{{ move.from }} → {{ move.to ?? 'no place there' }}</span>
                  </li>
                }
              </ul>
            </div>
          } @else if (section() === 'Segment') {
            <div class="cell wide">
              <span class="label">In words</span>
              <div class="value">{{ words() }}</div>
            </div>
          }
          @if (problem(); as now) {
            @if (now.flaws.length === 0) {
              <div class="cell full">
                <p class="flaw" role="alert">{{ now.message }}</p>
              </div>
            }
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
  readonly closed = output<void>();

  protected readonly sections = SECTIONS;
  protected readonly section = signal<Section>('Segment');
  private readonly roster = computed(() => this.store.data()?.roster ?? []);
  /** The segment as the draft has it this moment; what was handed in follows a little later. */
  private readonly current = computed(
    () => this.store.site()?.segments.find((each) => each.id === this.segment().id) ?? this.segment(),
  );
  private readonly original = computed(() => textOf(this.current(), this.roster()));
  /** What is typed; when the segment changes meanwhile, what was typed into other fields stays. */
  protected readonly text = linkedSignal<{ id: string; text: SegmentText }, SegmentText>({
    source: () => ({ id: this.segment().id, text: this.original() }),
    computation: (now, previous) => {
      if (previous?.source.id !== now.id) return now.text;
      const [typed, before] = [previous.value, previous.source.text];
      const kept = (Object.keys(typed) as (keyof SegmentText)[]).filter(
        (key) => typed[key] !== before[key] && now.text[key] === before[key],
      );
      return { ...now.text, ...Object.fromEntries(kept.map((key) => [key, typed[key]])) };
    },
  });
  /** Edits are sent one after the other: each says what the one before made. */
  private readonly turns = new Turns();
  protected readonly problem = linkedSignal<Segment, Problem | null>({ source: this.segment, computation: () => null });
  protected readonly flaws = computed(() => this.problem()?.flaws ?? []);
  protected readonly flawed = computed(() => new Set(this.flaws().map(({ field }) => sectionOf(field))));
  protected readonly words = computed(() => this.inWords() || `${this.segment().name} is not in the grid yet.`);
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
    if (!this.session.mayChange()) return;
    const segment = this.current();
    const { segment: wanted, flaws } = segmentOf(segment.id, this.wanted(), this.roster());
    if (flaws.length > 0) return this.problem.set(new Problem('segment.unread', flaws[0]!.message, flaws));
    const operation = changeOf(this.store.siteId()!, segment, wanted);
    if (!operation) return this.problem.set(null);
    try {
      await this.store.edit([operation]);
    } catch (error) {
      this.problem.set(problemOf(error));
    }
  }

  /** What was typed, on top of what goes along with a subnet that was. */
  private wanted(): SegmentText {
    const [text, original, moved] = [this.text(), this.original(), this.moved()];
    if (!moved) return text;
    const typed = Object.entries(text).filter(
      ([key, value]) => key !== 'subnet' && value !== original[key as keyof SegmentText],
    );
    return { ...textOf(moved.segment, this.roster()), ...Object.fromEntries(typed) };
  }

  /** Another place gives the addresses; a place that needs no more said is kept at once. */
  protected placed(text: SegmentText): void {
    const before = this.text().servedBy;
    this.text.set({ ...text, ...(before === 'none' && text.servedBy !== 'none' ? this.range(text) : {}) });
    if (['gateway', 'each ap', 'none'].includes(text.servedBy) && text.servedBy !== before) void this.keep();
  }

  /** Fills what is empty from the address plan: subnet, gateway, range; the IPv6 prefix where that part is shown. */
  protected async derive(): Promise<void> {
    const [site, draft, text] = [this.store.site(), this.store.draft(), this.text()];
    if (!site || !draft) return;
    if (this.section() === 'IPv6') {
      const { prefix, gateway } = proposeSegment6(site, this.segment().vlan);
      if (text.v6prefix.trim() === '') this.text.set({ ...text, v6prefix: prefix, v6gateway: gateway });
      return this.keep();
    }
    const { subnet, gateway } = text;
    const params = { vlan: text.vlan, ...(subnet ? { subnet } : {}), ...(gateway ? { gateway } : {}) };
    const url = `/api/drafts/${draft.id}/sites/${site.id}/segment-proposal`;
    await this.store.attempt(async () => {
      const found = await firstValueFrom(this.http.get<SegmentProposal>(url, { params }));
      const served = text.servedBy !== 'none';
      this.text.set({
        ...text,
        subnet: subnet || found.subnet,
        gateway: gateway || found.gateway,
        first: text.first || (served ? (found.addresses?.first ?? '') : ''),
        last: text.last || (served ? (found.addresses?.last ?? '') : ''),
        leaseHours: text.leaseHours || String((found.addresses?.leaseSeconds ?? 28_800) / 3600),
      });
      await this.keep();
    });
  }

  private range(text: SegmentText): Partial<SegmentText> {
    const [subnet, gateway] = [parsePrefix(text.subnet), parseIp(text.gateway)];
    const range = subnet && gateway && proposeAddresses(subnet, gateway);
    return range ? { first: range.first, last: range.last, leaseHours: String(range.leaseSeconds / 3600) } : {};
  }

  protected async remove(): Promise<void> {
    const { id } = this.segment();
    if (await this.store.tryEdit([{ type: 'segment.remove', siteId: this.store.siteId()!, segmentId: id }]))
      this.closed.emit();
  }
}
