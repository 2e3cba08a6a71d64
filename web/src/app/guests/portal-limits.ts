import { Component, inject, input, output } from '@angular/core';
import type { Problem } from '../session/problem';
import { SharedStore } from '../shell/shared-store';
import { ChoiceCell } from '../ui/choice-cell';
import { TextCell } from '../ui/text-cell';
import type { PortalText } from './portal-text';

type Typed = 'visit' | 'known' | 'rest' | 'idle' | 'slow' | 'dataADay' | 'minutesADay' | 'down' | 'up';
interface LimitCell {
  readonly field: Typed;
  readonly label: string;
  readonly hint: string;
  /** What its flaw is called. */
  readonly said?: string;
}

/** What a visit is limited by, in the order in which a guest meets it. */
const CELLS: readonly LimitCell[] = [
  { field: 'visit', label: 'A visit lasts', hint: '8 h, 90 min, 2 d; a code says its own' },
  {
    field: 'known',
    label: 'Asked again after',
    hint: 'Such as 30 d from signing in: until then a device that comes back is let in by itself. Empty: each time',
  },
  {
    field: 'rest',
    label: 'Then waits',
    hint: 'Until it lets itself in again; empty: not at all. Codes and a yes do before',
  },
  { field: 'idle', label: 'Ends without use after', hint: 'Such as 30 min; empty: it goes on' },
  { field: 'dataADay', label: 'Megabytes a day', hint: 'Of each device; empty: any' },
  {
    field: 'slow',
    label: 'Then goes on at',
    hint: 'Kb/s each way, once its megabytes are used up; empty: held until midnight',
  },
  { field: 'minutesADay', label: 'Time a day', hint: 'Such as 2 h; empty: any. Days begin at the site’s midnight' },
  {
    field: 'down',
    label: 'Down, each',
    hint: 'Mb/s; empty: any. Its SSID’s own cap where that is less',
    said: 'rate.down',
  },
  { field: 'up', label: 'Up, each', hint: 'Mb/s; empty: any', said: 'rate.up' },
];

/** For how long, how much, how fast and at which hours guests of a portal are let in. */
@Component({
  selector: 'il-portal-limits',
  imports: [ChoiceCell, TextCell],
  template: `
    @for (cell of cells; track cell.field) {
      <il-text-cell
        [label]="cell.label"
        [for]="'portal-' + cell.field"
        [hint]="cell.hint"
        [flaw]="unread()[cell.field] ?? problem()?.of(cell.said ?? cell.field)"
        [readonly]="readonly()"
        [value]="text()[cell.field]"
        (typed)="typed(cell.field, $event)"
      />
    }
    <il-choice-cell
      label="Lets guests in"
      for="portal-hours"
      [hint]="
        text().hours
          ? 'By each site’s own clock; whoever is in goes out at the end'
          : 'Hours are said under Wireless, Hours'
      "
      [options]="hours()"
      [value]="text().hours"
      [flaw]="problem()?.of('hours')"
      [disabled]="readonly()"
      (chosen)="put.emit({ hours: $event })"
    />
  `,
  styles: `
    :host {
      display: contents;
    }
  `,
})
export class PortalLimits {
  protected readonly cells = CELLS;
  protected readonly hours = inject(SharedStore).hoursChoices;
  readonly text = input.required<PortalText>();
  readonly problem = input.required<Problem | null>();
  readonly unread = input.required<Partial<Record<keyof PortalText, string>>>();
  readonly readonly = input.required<boolean>();
  readonly put = output<Partial<PortalText>>();

  protected typed(field: Typed, text: string): void {
    this.put.emit({ [field]: text });
  }
}
