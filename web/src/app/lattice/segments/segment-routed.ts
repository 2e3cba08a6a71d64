import { Component, computed, inject, input } from '@angular/core';
import { isOfOthers, isRoutedByAps, NOWHERE_ROUTED, type Segment, type SegmentFields } from '@iron-lattice/core/intent';
import { problemOf } from '../../session/problem';
import { SessionStore } from '../../session/session-store';
import { SiteStore } from '../../shell/site-store';
import { anewFor } from '../../ui/anew-for';
import { ChoiceCell, type Choice } from '../../ui/choice-cell';

/** Who routes a segment: the gateway, another router of the site, or nobody. */
@Component({
  selector: 'il-segment-routed',
  imports: [ChoiceCell],
  template: `
    <il-choice-cell
      label="Routed by"
      for="segment-routed"
      [hint]="hint()"
      [flaw]="flaw()"
      [disabled]="!session.mayChange() || byAps()"
      [options]="choices()"
      [value]="byAps() ? 'aps' : (segment().routed ?? '')"
      (chosen)="choose($event)"
    />
  `,
  styles: ':host { display: contents; }',
})
export class SegmentRouted {
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly segment = input.required<Segment>();
  protected readonly flaw = anewFor<string>(
    () => JSON.stringify(this.segment()),
    () => '',
  );
  protected readonly byAps = computed(() => isRoutedByAps(this.segment()));
  private readonly router = computed(() => this.store.site()?.routers?.find(({ id }) => id === this.segment().routed));
  protected readonly choices = computed((): Choice[] => {
    if (this.byAps()) return [{ value: 'aps', label: 'APs' }];
    const lives = this.segment().id === this.store.site()?.managementId;
    return [
      { value: '', label: 'the gateway' },
      ...(this.store.site()?.routers ?? []).map(({ id, name }) => ({ value: id, label: name })),
      ...(lives ? [] : [{ value: NOWHERE_ROUTED, label: 'nobody: carried only' }]),
    ];
  });
  protected readonly hint = computed(() => {
    if (this.byAps()) return 'APs give its addresses, and route it';
    if (this.segment().routed === NOWHERE_ROUTED) return 'Nothing gets in or out; ports that have it reach each other';
    const router = this.router();
    if (router) return isOfOthers(router) ? 'A box of others, as it is assumed to be under Paths' : 'A switch of ours';
    return 'Other routers are said under Paths';
  });

  protected async choose(to: string): Promise<void> {
    const { id: segmentId, routed = null, addresses } = this.segment();
    const siteId = this.store.siteId()!;
    const from: Partial<SegmentFields> = { routed };
    const next: Partial<SegmentFields> = { routed: to || null };
    // Where nobody routes nobody gives addresses in their place: what is said of them is kept.
    const quiet =
      to === NOWHERE_ROUTED && addresses && !addresses.off && (addresses.from?.kind ?? 'gateway') === 'gateway';
    const wider = quiet ? { addresses: { ...addresses, off: true } } : {};
    try {
      await this.store.edit([
        {
          ...{ type: 'segment.set', siteId, segmentId },
          ...{ from: { ...from, ...(quiet ? { addresses } : {}) }, to: { ...next, ...wider } },
        },
      ]);
    } catch (error) {
      this.flaw.set(problemOf(error).message);
    }
  }
}
