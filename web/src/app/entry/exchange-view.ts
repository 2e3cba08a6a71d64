import { Component, computed, input } from '@angular/core';
import type { EntryTest } from '@iron-lattice/core/entry';
import { PacketList } from '../ui/packet-list';

/** What a server said when it was asked for somebody: what follows, what to do, and every packet. */
@Component({
  selector: 'il-exchange-view',
  imports: [PacketList],
  template: `
    <p class="words" role="status" [class.good]="good()" [class.bad]="!good()">
      <b>{{ test().outcome.words }}</b>
    </p>
    @if (test().outcome.advice; as advice) {
      <p class="soft">{{ advice }}</p>
    }
    @if (test().exchange.certificate; as shown) {
      <p [class.good]="shown.trust === 'yes'" [class.bad]="shown.trust === 'no'">
        Certificate for <span class="mono">{{ shown.names.join(', ') || 'nobody' }}</span> by
        {{ shown.issuer || 'nobody named' }}, until {{ shown.until.slice(0, 10) }}:
        {{ TRUST[shown.trust] }}
      </p>
      @if (shown.trust === 'unchecked') {
        <p class="soft">
          Its SHA-256 is <span class="mono">{{ shown.sha256 }}</span>. Enter its authority below, so that nobody else
          answers in its name.
        </p>
      }
    }
    @if (test().exchange.keys; as keys) {
      <p class="soft">Keys for the air came with it, and are those of the client.</p>
    }
    @if (test().exchange.packets.length > 0) {
      <il-packet-list [packets]="test().exchange.packets" [server]="server()" />
      <p class="soft">
        {{ sent() }} in {{ test().exchange.ms }} ms{{
          test().exchange.address === null ? '' : ', at ' + test().exchange.address
        }}.
      </p>
    }
  `,
  styles: `
    :host {
      display: block;
    }
    .words {
      margin: 0 0 2px;
    }
    p {
      margin: 0 0 2px;
    }
  `,
})
export class ExchangeView {
  readonly test = input.required<EntryTest>();
  protected readonly TRUST = {
    yes: 'believed by its authority.',
    no: 'not believed.',
    unchecked: 'nobody checked it, since no authority is entered.',
  } as const;
  /** Name of the server. */
  readonly server = input.required<string>();
  protected readonly good = computed(() => this.test().outcome.kind === 'let-in');
  protected readonly sent = computed(() => {
    const { sent } = this.test().exchange;
    return sent === 1 ? 'One request' : `${sent} requests`;
  });
}
