import { Component, input } from '@angular/core';
import type { SaidPacket } from '@iron-lattice/core/radius';

/** Packets of an exchange with a RADIUS server, each with its attributes. */
@Component({
  selector: 'il-packet-list',
  template: `
    <ol class="packets" aria-label="Packets">
      @for (packet of packets(); track $index) {
        <li>
          <p class="head">
            <span class="mono soft">{{ packet.at.toFixed(1) }} ms</span>
            <b class="mono">{{ packet.name }}</b>
            <span class="soft">{{ packet.from === 'us' ? 'to ' + server() : 'from ' + server() }}</span>
          </p>
          <dl>
            @for (attribute of packet.attributes; track $index) {
              <dt class="mono">{{ attribute.name }}</dt>
              <dd class="mono">{{ attribute.value }}</dd>
            }
          </dl>
        </li>
      }
    </ol>
  `,
  styles: `
    :host {
      display: block;
    }
    .packets {
      list-style: none;
      margin: 6px 0;
      padding: 0;
      display: grid;
      grid-template-columns: repeat(auto-fit, minmax(min(310px, 100%), 1fr));
      gap: 8px 18px;
    }
    .head {
      margin: 0;
      display: flex;
      flex-wrap: wrap;
      gap: 8px;
    }
    dl {
      margin: 2px 0 0;
      display: grid;
      grid-template-columns: max-content 1fr;
      gap: 0 10px;
      font-size: 12px;
    }
    dt {
      color: var(--soft);
    }
    dd {
      margin: 0;
      overflow-wrap: anywhere;
    }
  `,
})
export class PacketList {
  readonly packets = input.required<readonly SaidPacket[]>();
  /** Name of the server. */
  readonly server = input.required<string>();
}
