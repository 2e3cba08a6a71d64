import { Component, inject, input, output } from '@angular/core';
import type { PortEntry } from '@iron-lattice/core/intent';
import { SharedStore } from '../../shell/shared-store';
import { ChoiceCell } from '../../ui/choice-cell';

/** What of ports follows from what sites share: the hours they are in use at, and the portal that holds their guests. */
@Component({
  selector: 'il-port-shared',
  imports: [ChoiceCell],
  template: `
    <il-choice-cell
      label="In use"
      for="ports-hours"
      [hint]="hours() ? 'At other times nothing passes, and it gives no power' : 'Hours are said under Wireless, Hours'"
      [disabled]="fixed()"
      [options]="shared.hoursChoices()"
      [value]="hours()"
      [flaw]="hoursFlaw()"
      (chosen)="chosen.emit({ hours: $event })"
    />
    <il-choice-cell
      label="Guests"
      for="ports-portal"
      [hint]="
        !portal()
          ? 'Portals are said under Guests'
          : nowhere()
            ? 'Nothing is untagged: whoever is plugged in gets nowhere, let in or not. Choose a segment above'
            : asks()
              ? 'Whoever is in one of the segments above since nobody knows it reaches nothing until it is let in there'
              : 'Whatever is plugged in reaches nothing until it is let in there'
      "
      [disabled]="fixed()"
      [options]="shared.portalChoices()"
      [value]="portal()"
      [flaw]="portalFlaw()"
      (chosen)="chosen.emit({ portal: $event })"
    />
  `,
  styles: ':host { display: contents; }',
})
export class PortShared {
  protected readonly shared = inject(SharedStore);
  /** Ids; null: always, and nobody is held. */
  readonly hours = input.required<unknown>();
  readonly portal = input.required<unknown>();
  readonly hoursFlaw = input<string | undefined>();
  readonly portalFlaw = input<string | undefined>();
  /** Whether the ports ask who somebody is. */
  readonly asks = input(false);
  /** Whether they put nobody anywhere. */
  readonly nowhere = input(false);
  readonly fixed = input(false);
  readonly chosen = output<Pick<Partial<PortEntry>, 'hours'> | Pick<Partial<PortEntry>, 'portal'>>();
}
