import { Component, input, output } from '@angular/core';
import type { Problem } from '../session/problem';
import { Cell } from '../ui/cell';
import { TextCell } from '../ui/text-cell';
import { capFlaw, type CapsField, type CapsText } from './caps-text';

/** What each of so many clients would get. */
export interface CapShare {
  /** `5`, or `7 now`. */
  readonly clients: string;
  /** In Mb/s; null: nothing limits them. */
  readonly down: number | null;
  readonly up: number | null;
  /** Which cap it is that decides. */
  readonly by: string;
}

/** Caps of clients, each and all together, and what that leaves each of few and of many. */
@Component({
  selector: 'il-caps-cells',
  imports: [Cell, TextCell],
  template: `
    @for (each of fields; track each.field) {
      <il-text-cell
        [label]="each.label"
        [for]="of() + '-cap-' + each.field"
        [hint]="each.field === 'allDown' ? together() : each.hint"
        [mono]="true"
        [flaw]="flaw(each.field)"
        [readonly]="readonly()"
        [value]="text()[each.field]"
        (typed)="changed.emit(change(each.field, $event))"
      />
    }
    @if (shares().length > 0) {
      <il-cell label="What each gets while all ask for as much as there is, Mb/s" size="full" [hint]="place()">
        <table>
          <thead>
            <tr>
              <th scope="row">Clients at once</th>
              @for (share of shares(); track share.clients) {
                <th scope="col">{{ share.clients }}</th>
              }
            </tr>
          </thead>
          <tbody>
            <tr>
              <th scope="row">Down, each</th>
              @for (share of shares(); track share.clients) {
                <td class="mono">{{ rate(share.down) }}</td>
              }
            </tr>
            <tr>
              <th scope="row">Up, each</th>
              @for (share of shares(); track share.clients) {
                <td class="mono">{{ rate(share.up) }}</td>
              }
            </tr>
            <tr>
              <th scope="row">Decided by</th>
              @for (share of shares(); track share.clients) {
                <td class="soft">{{ share.by }}</td>
              }
            </tr>
          </tbody>
        </table>
      </il-cell>
    }
  `,
  styles: `
    :host {
      display: contents;
    }
    table {
      border-collapse: collapse;
      width: 100%;
      table-layout: fixed;
    }
    th,
    td {
      text-align: left;
      vertical-align: top;
      font-weight: 400;
      padding: 2px 8px 2px 0;
      overflow-wrap: anywhere;
    }
    thead th[scope='col'] {
      font-weight: 600;
    }
    @media (max-width: 720px) {
      th:nth-child(4),
      td:nth-child(4) {
        display: none;
      }
    }
  `,
})
export class CapsCells {
  /** What the fields' ids begin with. */
  readonly of = input.required<string>();
  readonly text = input.required<CapsText>();
  readonly problem = input<Problem | null>(null);
  readonly readonly = input(false);
  readonly shares = input<readonly CapShare[]>([]);
  /** What “all together” means. */
  readonly together = input('');
  /** Where it is held, and why. */
  readonly place = input('');
  readonly changed = output<Partial<CapsText>>();
  protected readonly fields = [
    { field: 'clientDown', label: 'Each client down, Mb/s', hint: 'Empty: no cap' },
    { field: 'clientUp', label: 'Each client up, Mb/s', hint: '' },
    { field: 'allDown', label: 'All together down, Mb/s', hint: '' },
    { field: 'allUp', label: 'All together up, Mb/s', hint: '' },
    { field: 'burst', label: 'Burst, ms', hint: 'Saved up while nothing is sent; empty: 100 ms' },
  ] as const;

  protected flaw = (field: CapsField): string =>
    capFlaw(this.text(), field, (name) => this.problem()?.of(name) ?? undefined);

  protected change = (field: CapsField, typed: string): Partial<CapsText> => ({ [field]: typed });

  protected rate = (mbps: number | null): string =>
    mbps === null ? 'all there is' : mbps >= 100 ? mbps.toFixed(0) : `${+mbps.toPrecision(3)}`;
}
