import { Component, computed, inject, input } from '@angular/core';
import { reachesMeet, type SharedReach } from '@iron-lattice/core/intent';
import { SharedStore } from '../shell/shared-store';
import { Cell } from '../ui/cell';

/** Who is asked by an SSID: for who somebody is, or for the keys of its ring. */
@Component({
  selector: 'il-ssid-asked',
  imports: [Cell],
  template: `
    <il-cell [label]="keys() ? 'Asked for its keys' : 'Asked who that is'" [hint]="hint()">
      <div class="value">{{ asked() || 'nobody yet' }}</div>
    </il-cell>
  `,
  styles: ':host { display: contents; }',
})
export class SsidAsked {
  private readonly shared = inject(SharedStore);
  readonly reach = input.required<SharedReach>();
  /** Whether it is for keys: only servers that are asked about MAC addresses name them. */
  readonly keys = input(false);
  /** The servers that may be asked where it is sent, in their order. */
  protected readonly asked = computed(() =>
    [...(this.shared.estate()?.radius ?? [])]
      .filter(({ reach, macs, own }) => reachesMeet(reach, this.reach()) && (!this.keys() || (macs !== null && !own)))
      .sort((a, b) => a.order - b.order)
      .map(({ name }) => name)
      .join(', '),
  );
  protected readonly hint = computed(() => {
    if (this.asked() !== '') return 'As Entry says, each at the sites that it reaches';
    return this.keys()
      ? 'Nobody gets in: add a RADIUS server under Entry that is asked about MAC addresses'
      : 'Nobody gets in: add a RADIUS server under Entry, or have this controller asked';
  });
}
