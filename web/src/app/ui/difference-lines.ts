import { Component, input } from '@angular/core';
import type { DifferenceLine } from '@iron-lattice/core/document';

/** How a document's fields read. */
const WORDS: Readonly<Record<string, string>> = {
  ports: 'port',
  interfaces: 'gateway address in VLAN',
  addressServices: 'addresses in VLAN',
  leaseSeconds: 'lease, in seconds',
  first: 'from',
  last: 'to',
  dns: 'DNS',
  vlans: 'VLAN',
  vlan: 'VLAN ID',
  ssids: 'SSID',
  uplinks: 'uplink',
  method: 'comes to its address by',
  fixed: 'address',
  watch: 'watched',
  targets: 'asks',
  interval: 'every, in seconds',
  losses: 'lost in a row',
  timeout: 'waits, in seconds',
  good: 'good in a row',
  hold: 'for, in seconds',
  standby: 'stands by, turn',
  leaving: 'uplinks together',
  begins: 'a standby begins when … is gone',
  back: 'used again after, in seconds',
  stay: 'sessions stay',
  translate: 'translates addresses',
  shape: 'kept to, in kilobits a second',
  parts: 'while all are busy, VLAN',
  weight: 'weight',
  courses: 'course',
  published: 'published',
  outside: 'port outside',
  inside: 'port there',
  within: 'from inside as well',
  translations: 'translation',
  as: 'seen as',
  length: 'bits of the prefix',
  light: 'status light',
  asked: 'servers name the keys',
  byClass: 'clients of a class join its segment',
  otherwise: 'class of everybody else',
  accessClass: 'class',
};

/** What one device would be told anew, a line for each value. */
@Component({
  selector: 'il-difference-lines',
  template: `
    <ul class="mono">
      @for (line of lines(); track $index) {
        <li [class]="line.op">
          <span class="sign">{{ line.op === 'add' ? '+' : line.op === 'remove' ? '−' : '~' }}</span>
          <span class="path">{{ place(line) }}</span>
          <span>
            @if (secret(line)) {
              {{ line.after === null ? 'taken away' : 'a new one' }}
            } @else if (line.op === 'change') {
              <s class="soft">{{ value(line.before) }}</s> {{ value(line.after) }}
            } @else {
              {{ value(line.after ?? line.before) }}
            }
          </span>
        </li>
      }
    </ul>
  `,
  styles: `
    ul {
      list-style: none;
      margin: 0;
      padding: 0 14px 8px 28px;
    }
    li {
      display: grid;
      grid-template-columns: 14px minmax(0, 2fr) minmax(0, 1fr);
      gap: 8px;
      line-height: 19px;
      overflow-wrap: anywhere;
    }
    .add .sign {
      color: var(--good);
    }
    .remove .sign {
      color: var(--bad);
    }
    .change .sign {
      color: var(--caution);
    }
  `,
})
export class DifferenceLines {
  readonly lines = input.required<readonly DifferenceLine[]>();

  protected place({ path }: DifferenceLine): string {
    const shown = path.at(-1) === 'secret' ? path.slice(0, -1) : path;
    return shown.map((word) => WORDS[word] ?? word).join(' › ');
  }

  /** A value that a document sets to null is one that it sets to nothing. */
  protected value(text: string | null): string {
    return text === null || text === 'null' ? 'nothing' : text;
  }

  /** A secret's reference is shown to nobody: only that it is another one. */
  protected secret({ path }: DifferenceLine): boolean {
    return path.at(-1) === 'secret';
  }
}
