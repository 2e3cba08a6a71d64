import { Component, computed, inject, input, linkedSignal, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { formatIp, parsePrefix } from '@iron-lattice/core/address';
import { canonicalJson } from '@iron-lattice/core/document';
import type { Segment, SegmentFields as Fields } from '@iron-lattice/core/intent';
import { proposeAddresses } from '@iron-lattice/core/lattice';
import { SessionStore } from '../session/session-store';
import { problemOf, type Problem } from '../shell/problem';
import { SiteStore } from '../shell/site-store';
import { SegmentTag } from '../ui/segment-tag';
import { Sheet } from '../ui/sheet';
import { SegmentFields, type SegmentText } from './segment-fields';
import { segmentOf, textOf } from './segment-text';

/** A segment's sheet: every value is edited in place; a change of the subnet carries gateway and range along. */
@Component({
  selector: 'il-segment-sheet',
  imports: [MatButtonModule, Sheet, SegmentFields, SegmentTag],
  template: `
    <il-sheet
      [heading]="segment().name"
      [note]="'segment ' + segment().vlan + ' at ' + store.site()?.name"
      (closed)="closed.emit()"
    >
      @if (store.marks().get(segment().id); as mark) {
        <il-segment-tag lead [mark]="mark" />
      }
      @if (session.mayChange() && segment().id !== store.site()?.managementId) {
        <button actions mat-stroked-button (click)="remove()">Remove segment</button>
      }
      <form (submit)="keep($event)" (focusout)="keep()">
        <div class="cells">
          <il-segment-fields [(text)]="text" [readonly]="!session.mayChange()" [flaws]="problem()?.flaws ?? []" />
          <div class="cell wide">
            <span class="label">In words</span>
            <div class="value">{{ words() }}</div>
            @if (problem(); as now) {
              @if (now.flaws.length === 0) {
                <p class="flaw" role="alert">{{ now.message }}</p>
              }
            }
          </div>
        </div>
        <button type="submit" class="visually-hidden" tabindex="-1">Keep</button>
      </form>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class SegmentSheet {
  protected readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly segment = input.required<Segment>();
  readonly closed = output<void>();

  protected readonly text = linkedSignal<SegmentText>(() => textOf(this.segment()));
  protected readonly problem = linkedSignal<Segment, Problem | null>({ source: this.segment, computation: () => null });
  protected readonly words = computed(() => {
    const { id, name } = this.segment();
    const row = this.store.consequences()?.grid.rows.find((each) => each.segment.id === id);
    const count = (crossing: string): number =>
      Object.values(row?.cells ?? {}).filter((each) => each === crossing).length;
    const ssids = count('broadcast');
    const missing = count('missing');
    const on = ssids === 0 ? 'On no SSID' : ssids === 1 ? 'On 1 SSID' : `On ${ssids} SSIDs`;
    const gap =
      missing === 0
        ? 'every strand reaches its gateway'
        : `${missing} ${missing === 1 ? 'crossing is' : 'crossings are'} missing`;
    return row ? `${on}; ${gap}.` : `${name} is not in the grid yet.`;
  });

  /** Puts what was typed into the draft, if it differs. */
  protected async keep(event?: Event): Promise<void> {
    event?.preventDefault();
    if (!this.session.mayChange()) return;
    const segment = this.segment();
    const wanted = this.carried(segmentOf(segment.id, this.text()), segment);
    const to: Partial<Fields> = {};
    const from: Partial<Fields> = {};
    for (const key of ['name', 'vlan', 'subnet', 'gateway', 'addresses'] as const) {
      if (same(wanted[key], segment[key])) continue;
      Object.assign(to, { [key]: wanted[key] });
      Object.assign(from, { [key]: segment[key] });
    }
    if (Object.keys(to).length === 0) return this.problem.set(null);
    try {
      await this.store.edit([{ type: 'segment.set', siteId: this.store.siteId()!, segmentId: segment.id, from, to }]);
    } catch (error) {
      this.problem.set(problemOf(error));
    }
  }

  protected async remove(): Promise<void> {
    const { id } = this.segment();
    if (await this.store.tryEdit([{ type: 'segment.remove', siteId: this.store.siteId()!, segmentId: id }]))
      this.closed.emit();
  }

  /** When only the subnet was changed, gateway and range follow it. */
  private carried(wanted: Segment, segment: Segment): Segment {
    const subnet = parsePrefix(wanted.subnet);
    const alone = wanted.gateway === segment.gateway && same(wanted.addresses, segment.addresses);
    if (!subnet || wanted.subnet === segment.subnet || !alone) return wanted;
    const gateway = { version: subnet.version, value: subnet.network + 1n };
    const text = proposeAddresses(subnet, gateway);
    const lease = segment.addresses?.leaseSeconds;
    const addresses = segment.addresses && text ? { ...text, leaseSeconds: lease! } : null;
    return { ...wanted, gateway: formatIp(gateway), addresses };
  }
}

/** Whether two values are the same JSON, whatever the order of their keys. */
const same = (a: unknown, b: unknown): boolean => canonicalJson(a) === canonicalJson(b);
