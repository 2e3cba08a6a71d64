import { Component, computed, inject, input } from '@angular/core';
import { hereOf, innerOfPact, outlookOf, uplinkSettings, type Pact } from '@iron-lattice/core/intent';
import { SiteStore } from '../../shell/site-store';
import { Cell } from '../../ui/cell';
import type { GatewayRow } from '../path-rows';
import { outlookRows } from './pact-words';

/** What both gateways would come to agree on by what is typed, before either has called. */
@Component({
  selector: 'il-pact-outlook',
  imports: [Cell],
  template: `
    <il-cell
      [label]="pact().says ? 'What both come to' : 'What both come to, if the other is told what its file says'"
      size="full"
    >
      <table aria-label="What both come to">
        <tbody>
          @for (row of rows(); track row.label) {
            <tr>
              <th scope="row">{{ row.label }}</th>
              <td [class.bad]="!row.good">{{ row.text }}</td>
            </tr>
          }
        </tbody>
      </table>
      <p class="hint">{{ room() }}</p>
    </il-cell>
  `,
  styles: `
    :host {
      display: contents;
    }
    table {
      border-collapse: collapse;
      width: 100%;
    }
    tr {
      border-top: 1px solid var(--rule);
    }
    th {
      width: 130px;
      padding: 3px 10px 3px 0;
      font-weight: 400;
      text-align: left;
      vertical-align: top;
      color: var(--soft);
    }
    td {
      padding: 3px 0;
      overflow-wrap: anywhere;
    }
    .bad {
      color: var(--bad);
    }
  `,
})
export class PactOutlookCell {
  private readonly store = inject(SiteStore);
  readonly pact = input.required<Pact>();
  /** The gateway that keeps it. */
  readonly gateway = input.required<GatewayRow | undefined>();
  private readonly here = computed(() => {
    const site = this.store.site();
    return site ? hereOf(site, this.pact()) : [];
  });
  protected readonly rows = computed(() => {
    const pact = this.pact();
    return outlookRows(outlookOf(pact, this.here()), this.here(), pact.behind);
  });
  protected readonly room = computed(() => {
    const [site, gateway, { esp }] = [this.store.site(), this.gateway(), this.pact()];
    if (!site || !gateway || esp.ciphers.length === 0) return '';
    const octets = innerOfPact(this.pact(), uplinkSettings(site, gateway.device));
    return Number.isFinite(octets)
      ? `Packets of up to ${octets} octets go in whole; longer ones are parted, or their senders are told.`
      : '';
  });
}
