import { Component, computed, inject, input, signal } from '@angular/core';
import { sheetFor, type Band } from '@iron-lattice/core/hardware';
import { radioSetting } from '@iron-lattice/core/intent';
import type { Width } from '@iron-lattice/core/radio';
import { allowedBlock } from '@iron-lattice/core/regulation';
import { partsMet } from '@iron-lattice/core/wireless';
import { SiteStore } from '../shell/site-store';
import { AirStore } from './air-store';

/** An AP in the drawing. */
interface Node {
  readonly id: string;
  readonly name: string;
  readonly channel: string;
  readonly x: number;
  readonly y: number;
}
interface Pair {
  readonly key: string;
  readonly a: Node;
  readonly b: Node;
  readonly loss: number;
  /** As each hears the other, in dBm. */
  readonly heard: number;
  /** Whether they wait for each other: heard well enough, on channels that meet. */
  readonly shares: boolean;
}

/** Signal in dBm at which others wait for a sender (IEEE 802.11-2020 §17.3.10.6). */
const WAITS = -82;
/** APs that a drawing holds at most; the matrix shows all. */
const MOST_DRAWN = 60;
const [SIZE, ROUND] = [340, 130];

/** Which APs hear each other, and which share the air where the draft puts them: as a drawing and as a matrix. */
@Component({
  selector: 'il-hearing-view',
  template: `
    @if (pairs().length === 0) {
      <p class="soft none">No AP of ours heard another at {{ band() }} GHz. Scan with all of them.</p>
    } @else {
      <div class="bar">
        <div class="choices" role="group" aria-label="Where radios are">
          <button type="button" [attr.aria-pressed]="!live()" (click)="live.set(false)">In the draft</button>
          <button type="button" [attr.aria-pressed]="live()" (click)="live.set(true)">Now on the air</button>
        </div>
      </div>
      <div class="both">
        <figure>
          <svg viewBox="0 0 340 340" role="img" [attr.aria-label]="words()">
            @for (pair of pairs(); track pair.key) {
              <line
                [attr.x1]="pair.a.x"
                [attr.y1]="pair.a.y"
                [attr.x2]="pair.b.x"
                [attr.y2]="pair.b.y"
                [class.shares]="pair.shares"
                [attr.stroke-width]="thick(pair)"
              >
                <title>{{ pairWords(pair) }}</title>
              </line>
            }
            @for (node of nodes(); track node.id) {
              <g [attr.transform]="'translate(' + node.x + ' ' + node.y + ')'">
                <rect x="-30" y="-15" width="60" height="30" />
                <text y="-2" text-anchor="middle">{{ node.name }}</text>
                <text y="10" text-anchor="middle" class="channel">{{ node.channel }}</text>
              </g>
            }
          </svg>
          <figcaption class="soft">
            Thick: heard loudly. Solid iron: they share the air{{ live() ? ' now' : ' where the draft puts them' }};
            dashed: they hear each other on channels that do not meet. {{ sharing() }}
          </figcaption>
        </figure>
        <div class="matrix">
          <table class="grid">
            <caption class="soft">
              Path loss in dB, as measured; bold where they share the air
            </caption>
            <thead>
              <tr>
                <th></th>
                @for (node of nodes(); track node.id) {
                  <th class="mono">{{ node.name }}</th>
                }
              </tr>
            </thead>
            <tbody>
              @for (row of matrix(); track row.node.id) {
                <tr class="empty">
                  <th scope="row" class="mono">{{ row.node.name }}</th>
                  @for (cell of row.cells; track $index) {
                    <td [class.shares]="cell?.shares" [class.soft]="!cell" [title]="cell ? pairWords(cell) : ''">
                      {{ cell ? cell.loss.toFixed(0) : '·' }}
                    </td>
                  }
                </tr>
              }
            </tbody>
          </table>
        </div>
      </div>
    }
  `,
  styles: `
    :host {
      display: block;
      overflow: auto;
    }
    .none {
      padding: 12px 14px;
    }
    .bar {
      padding: 0 14px 6px;
    }
    .both {
      display: flex;
      flex-wrap: wrap;
      gap: 24px;
      padding: 6px 14px;
      align-items: flex-start;
    }
    figure {
      margin: 0;
      width: 380px;
      max-width: 100%;
    }
    svg {
      width: 100%;
      max-height: 380px;
    }
    line {
      stroke: var(--strong);
      stroke-dasharray: 4 4;
    }
    line.shares {
      stroke: var(--iron);
      stroke-dasharray: none;
    }
    rect {
      fill: var(--sheet);
      stroke: var(--ink);
    }
    text {
      font:
        500 10px 'JetBrains Mono',
        monospace;
      fill: var(--ink);
    }
    .channel {
      fill: var(--soft);
    }
    .matrix {
      overflow: auto;
      max-width: 100%;
    }
    caption {
      text-align: left;
      padding-bottom: 4px;
    }
    tbody tr {
      cursor: default;
    }
    tbody th {
      position: static;
      border-bottom: 1px solid var(--rule);
    }
    td {
      text-align: right;
    }
    td.shares {
      font-weight: 600;
      color: var(--iron);
    }
  `,
})
export class HearingView {
  private readonly store = inject(SiteStore);
  private readonly air = inject(AirStore);
  readonly band = input.required<Band>();
  /** Whether radios are where they send now, or where the draft puts them. */
  protected readonly live = signal(false);

  private readonly aps = computed(() =>
    (this.store.data()?.roster ?? []).filter((device) =>
      sheetFor(device).radios.some(({ band }) => band === this.band()),
    ),
  );
  protected readonly nodes = computed((): Node[] => {
    const [data, band, aps] = [this.store.data(), this.band(), this.aps()];
    if (!data) return [];
    return aps.map((device, i): Node => {
      const angle = (i / aps.length) * 2 * Math.PI - Math.PI / 2;
      const at = this.tuned(device.id);
      return {
        id: device.id,
        name: device.name,
        channel: at ? `${at.channel} · ${at.width}` : band,
        x: SIZE / 2 + ROUND * Math.cos(angle),
        y: SIZE / 2 + ROUND * Math.sin(angle),
      };
    });
  });
  protected readonly pairs = computed((): Pair[] => {
    const nodes = new Map(this.nodes().map((node) => [node.id, node]));
    if (nodes.size > MOST_DRAWN * 10) return [];
    return this.air.losses().flatMap(({ band, a, b, loss }): Pair[] => {
      const [from, to] = [nodes.get(a), nodes.get(b)];
      if (band !== this.band() || !from || !to) return [];
      const [mine, theirs] = [this.tuned(a), this.tuned(b)];
      const heard = Math.max(mine?.power ?? 0, theirs?.power ?? 0) - loss;
      const meets =
        mine !== null &&
        theirs !== null &&
        partsMet(band, { centre: mine.centre, centreMhz: 0, members: mine.members }, theirs).length > 0;
      return [{ key: `${a} ${b}`, a: from, b: to, loss, heard, shares: meets && heard >= WAITS }];
    });
  });
  protected readonly matrix = computed(() => {
    const byKey = new Map(
      this.pairs().flatMap(
        (pair) =>
          [
            [`${pair.a.id} ${pair.b.id}`, pair],
            [`${pair.b.id} ${pair.a.id}`, pair],
          ] as const,
      ),
    );
    return this.nodes().map((node) => ({
      node,
      cells: this.nodes().map((other) => byKey.get(`${node.id} ${other.id}`) ?? null),
    }));
  });
  protected readonly sharing = computed(() => {
    const count = this.pairs().filter(({ shares }) => shares).length;
    return count === 0 ? 'No two share the air.' : `${count} of ${this.pairs().length} pairs share the air.`;
  });
  protected readonly words = computed(() =>
    this.pairs()
      .map((pair) => this.pairWords(pair))
      .join('; '),
  );

  protected thick = ({ heard }: Pair): number => 1 + Math.max(0, Math.min(4, (heard + 85) / 10));

  protected pairWords({ a, b, loss, heard, shares }: Pair): string {
    return `${a.name} and ${b.name}: ${loss.toFixed(0)} dB apart, heard at ${heard.toFixed(0)} dBm${shares ? ', share the air' : ''}`;
  }

  /** Where a radio is in the draft, or where it chose; or where it sends now. */
  private tuned(deviceId: string) {
    const [data, band] = [this.store.data(), this.band()];
    const device = data?.roster.find(({ id }) => id === deviceId);
    const fact = this.store
      .devices()
      .find(({ id }) => id === deviceId)
      ?.radioFacts.find((each) => each.band === band);
    if (!data || !device) return null;
    if (this.live()) {
      if (fact?.state !== 'on' || fact.channel === undefined || fact.centre === undefined) return null;
      const { channel, centre, width = 20, power = 0 } = fact;
      const members = allowedBlock(data.site.country, band, channel, width as Width)?.members ?? [channel];
      return { channel, width, centre, members, power };
    }
    const { on, at, choices, eirp } = radioSetting(data.site, device, band);
    const there = at ?? choices.find(({ channel }) => channel === fact?.channel) ?? null;
    if (!on || !there || eirp === null) return null;
    const { channel, width, block } = there;
    return { channel, width, centre: block.centre, members: block.members, power: eirp };
  }
}
