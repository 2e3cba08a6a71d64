import { Component, computed, inject, input } from '@angular/core';
import { MatCheckboxModule } from '@angular/material/checkbox';
import type { Segment, SegmentFields } from '@iron-lattice/core/intent';
import { SessionStore } from '../../session/session-store';
import { SiteStore } from '../../shell/site-store';
import { Cell } from '../../ui/cell';

/** A segment that was typed, switched on or off as the one that is kept. */
export const withSwitches = (segment: Segment, { off, addresses }: Segment): Segment => ({
  ...segment,
  ...(off ? { off } : {}),
  addresses: segment.addresses && (addresses?.off ? { ...segment.addresses, off: true } : segment.addresses),
});

/** Switches a segment, or its address service, off and on: all that is said of it stays. */
@Component({
  selector: 'il-segment-switches',
  imports: [MatCheckboxModule, Cell],
  template: `
    <il-cell label="Switched on" role="group" aria-label="Switched on" [hint]="hint()">
      <mat-checkbox [checked]="!segment().off" [disabled]="fixed()" (change)="carry($event.checked)"
        >the segment</mat-checkbox
      >
      <mat-checkbox
        [checked]="segment().addresses !== null && !segment().addresses!.off"
        [disabled]="!session.mayChange() || segment().addresses === null"
        (change)="give($event.checked)"
        >its addresses</mat-checkbox
      >
    </il-cell>
  `,
  styles: `
    :host {
      display: contents;
    }
    mat-checkbox {
      margin-right: 10px;
    }
  `,
})
export class SegmentSwitches {
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly segment = input.required<Segment>();
  /** Whether it has to stay on. */
  protected readonly fixed = computed(
    () => !this.session.mayChange() || this.segment().id === this.store.site()?.managementId,
  );
  protected readonly hint = computed(() => {
    const { id, off, addresses } = this.segment();
    if (off) return 'Off: no device carries it, and no SSID is sent into it; all of it is kept';
    if (addresses?.off) return 'Off: nobody gives addresses there; ranges and reservations are kept';
    if (id === this.store.site()?.managementId) return 'Devices themselves live here';
    return 'Off keeps all that is said';
  });

  protected carry(on: boolean): Promise<boolean> {
    const { off = null } = this.segment();
    return this.set({ off }, { off: on ? null : true });
  }

  protected give(on: boolean): Promise<boolean> {
    const { addresses } = this.segment();
    const { off: _off, ...rest } = addresses!;
    return this.set({ addresses }, { addresses: on ? rest : { ...rest, off: true } });
  }

  private set(from: Partial<SegmentFields>, to: Partial<SegmentFields>): Promise<boolean> {
    const [siteId, segmentId] = [this.store.siteId()!, this.segment().id];
    return this.store.tryEdit([{ type: 'segment.set', siteId, segmentId, from, to }]);
  }
}
