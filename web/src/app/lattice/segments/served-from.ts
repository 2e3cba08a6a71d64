import { Component, computed, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { Flaw } from '@iron-lattice/core/base';
import type { RosterDevice } from '@iron-lattice/core/intent';
import { Cell } from '../../ui/cell';
import { TextCell } from '../../ui/text-cell';
import { TokenField } from '../../ui/token-field';
import type { SegmentText } from './segment-text';
import { servedBy, servedTokens, servingBoxes, type ServedBy } from './served-tokens';

const MEANS: Readonly<Record<ServedBy, string>> = {
  gateway: 'The gateway that routes the segment gives them to all.',
  switch: 'The switch gives them to all, at an address of its own here; the gateway still routes.',
  server: 'A server that is not ours gives them; the gateway passes requests on to it.',
  'every ap': 'Each AP gives its own clients addresses and translates for them; the segment never leaves it.',
  aps: 'Each gives addresses to the clients nearest to it, and translates for them; other APs carry the segment to it.',
  nobody: 'Nobody: clients need fixed addresses. Choose a box, or type the address of a server.',
};

/** What gives a segment's addresses: one choice of boxes, in a field or on the cabling. */
@Component({
  selector: 'il-served-from',
  imports: [MatButtonModule, Cell, TextCell, TokenField],
  template: `
    <il-cell label="Addresses are given by" for="segment-served" size="wide" [hint]="means[by()]" [flaw]="flaw()">
      <il-token-field
        label="Addresses are given by"
        for="segment-served"
        placeholder="gateway, every AP, names of boxes, or a server’s address"
        [source]="source()"
        [value]="text().served"
        [readonly]="readonly()"
        (typed)="changed.emit({ served: $event })"
      />
    </il-cell>
    @if (by() === 'switch') {
      <il-text-cell
        label="Address of the switch here"
        for="segment-servedAddress"
        hint="In the subnet, not in a range"
        [mono]="true"
        [readonly]="readonly()"
        [value]="text().servedAddress"
        (typed)="changed.emit({ servedAddress: $event })"
      />
    }
    <il-cell [label]="onCabling() ? 'On the cabling above' : 'On the cabling'">
      @if (onCabling()) {
        <div class="value">
          {{ boxes() === 1 ? '1 box gives them' : boxes() + ' boxes give them'
          }}{{ readonly() ? '.' : '. Press a box to choose it or to take it out.' }}
        </div>
      } @else {
        <button mat-stroked-button type="button" (click)="seek.emit()">
          {{ readonly() ? 'Show them there' : 'Choose them there' }}
        </button>
      }
    </il-cell>
  `,
  styles: ':host { display: contents; }',
})
export class ServedFrom {
  readonly text = input.required<SegmentText>();
  readonly roster = input.required<readonly RosterDevice[]>();
  readonly flaws = input<readonly Flaw[]>([]);
  readonly readonly = input(false);
  /** Whether the cabling is in sight. */
  readonly onCabling = input(false);
  readonly changed = output<Partial<SegmentText>>();
  /** Somebody wants to choose on the cabling. */
  readonly seek = output<void>();
  protected readonly means = MEANS;
  protected readonly source = computed(() => servedTokens(this.roster()));
  protected readonly by = computed(() => servedBy(this.text().served, this.roster()));
  protected readonly boxes = computed(() => servingBoxes(this.text().served, this.roster()).size);
  protected readonly flaw = computed(() =>
    this.flaws()
      .filter(({ field }) => field === 'from')
      .map(({ message }) => message)
      .join(' '),
  );
}
