import { HttpClient } from '@angular/common/http';
import { Component, computed, effect, inject, output, signal, untracked } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { Flaw } from '@iron-lattice/core/base';
import { checkSegment } from '@iron-lattice/core/intent';
import type { SegmentProposal } from '@iron-lattice/core/lattice';
import { firstValueFrom } from 'rxjs';
import { attempt, type Problem } from '../../session/problem';
import { SiteStore } from '../../shell/site-store';
import { Sheet } from '../../ui/sheet';
import { SegmentFields } from './segment-fields';
import { EMPTY_TEXT, segmentOf, type SegmentText } from './segment-text';

type Key = keyof SegmentText;

/** A new segment: a name and a VLAN ID; all else is derived and may be typed over. */
@Component({
  selector: 'il-new-segment-sheet',
  imports: [MatButtonModule, Sheet, SegmentFields],
  template: `
    <il-sheet
      heading="New segment"
      [focusFirst]="true"
      note="Name and VLAN ID are enough; the rest is derived."
      (closed)="closed.emit()"
    >
      <button actions mat-flat-button type="submit" form="new-segment" [disabled]="busy()">Add segment</button>
      <form id="new-segment" (submit)="add($event)">
        <div class="cells">
          <il-segment-fields [text]="text()" (changed)="typed($event)" [derived]="derived()" [flaws]="flaws()" />
          @if (other(); as message) {
            <p class="cell full flaw" role="alert">{{ message }}</p>
          }
        </div>
      </form>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class NewSegmentSheet {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  readonly closed = output<void>();
  /** Id of the segment that was added. */
  readonly added = output<string>();

  private readonly id = crypto.randomUUID();
  protected readonly text = signal<SegmentText>(EMPTY_TEXT);
  /** What somebody typed, and so is not derived again. */
  private readonly own = signal<ReadonlySet<Key>>(new Set());
  protected readonly problem = signal<Problem | null>(null);
  /** What was refused and belongs to no field. */
  protected readonly other = computed(() => (this.problem()?.flaws.length === 0 ? this.problem()!.message : ''));
  protected readonly busy = signal(false);

  protected readonly derived = computed(() => {
    const { own, text } = { own: this.own(), text: this.text() };
    return new Set(
      (['subnet', 'gateway', 'first', 'last', 'leaseHours'] as const).filter(
        (key) => !own.has(key) && text[key] !== '',
      ),
    );
  });
  /** What the controller refused; before that, what can be said of the fields that were filled. */
  protected readonly flaws = computed((): readonly Flaw[] => {
    const refused = this.problem()?.flaws;
    if (refused && refused.length > 0) return refused;
    const site = this.store.site();
    if (!site || this.text().subnet === '') return this.vlanFlaw();
    const text = this.text();
    return checkSegment(segmentOf(this.id, text).segment, site.id, [site]).filter(
      ({ field }) => field !== 'name' || text.name !== '',
    );
  });
  private readonly wish = computed(() => {
    const [text, own] = [this.text(), this.own()];
    const subnet = own.has('subnet') ? text.subnet : '';
    return `${text.vlan.trim()}|${subnet}|${own.has('gateway') ? text.gateway : ''}`;
  });

  private readonly draftId = computed(() => this.store.draft()?.id);

  constructor() {
    effect((onCleanup) => {
      const draftId = this.draftId(); // who types fast is there before the draft is
      if (draftId === undefined) return;
      const [vlan, subnet, gateway] = this.wish().split('|') as [string, string, string];
      if (!/^\d+$/.test(vlan) || Number(vlan) < 1 || Number(vlan) > 4094) return;
      const timer = setTimeout(() => void this.derive(draftId, vlan, subnet, gateway), 80);
      onCleanup(() => clearTimeout(timer));
    });
  }

  protected typed(change: Partial<SegmentText>): void {
    const own = new Set(this.own());
    for (const [key, value] of Object.entries(change) as [Key, string][]) {
      if (value === '')
        own.delete(key); // emptied: derive it again
      else own.add(key);
    }
    this.text.update((text) => ({ ...text, ...change }));
    this.own.set(own);
    this.problem.set(null);
  }

  protected async add(event: Event): Promise<void> {
    event.preventDefault();
    await attempt(this.busy, this.problem, async () => {
      const { segment } = segmentOf(this.id, this.text());
      await this.store.edit([{ type: 'segment.add', siteId: this.store.siteId()!, segment }]);
      this.added.emit(this.id);
    });
  }

  private vlanFlaw(): Flaw[] {
    const { vlan } = this.text();
    const right = vlan === '' || (/^\s*\d+\s*$/.test(vlan) && Number(vlan) >= 1 && Number(vlan) <= 4094);
    return right
      ? []
      : [{ code: 'segment.vlan-range', message: 'A VLAN ID is a whole number from 1 to 4094.', field: 'vlan' }];
  }

  private async derive(draftId: string, vlan: string, subnet: string, gateway: string): Promise<void> {
    const params = { vlan, ...(subnet ? { subnet } : {}), ...(gateway ? { gateway } : {}) };
    const url = `/api/drafts/${draftId}/sites/${this.store.siteId()}/segment-proposal`;
    const proposal = await firstValueFrom(this.http.get<SegmentProposal>(url, { params })).catch(() => null);
    if (!proposal) return;
    const own = untracked(this.own);
    const derived: Partial<Record<Key, string>> = {
      subnet: proposal.subnet,
      gateway: proposal.gateway,
      first: proposal.addresses?.first ?? '',
      last: proposal.addresses?.last ?? '',
      leaseHours: String((proposal.addresses?.leaseSeconds ?? 28_800) / 3600),
    };
    this.text.update((text) => ({
      ...text,
      ...Object.fromEntries(Object.entries(derived).filter(([key]) => !own.has(key as Key))),
    }));
  }
}
