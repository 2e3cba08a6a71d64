import { Component, input, output } from '@angular/core';
import { carriedWords, countedWords, fareWords, titleOf, type GatewayRow, type UplinkRow } from './path-rows';

/** A gateway with its uplinks: a line for each, as thick as its share, whole while it is used, broken while it is not. */
@Component({
  selector: 'il-uplinks-drawing',
  template: `
    <div class="gateway">
      <button type="button" class="box" [attr.aria-pressed]="together()" (click)="picked.emit('')">
        <b class="mono">{{ gateway().device.name }}</b>
        @if (gateway().device.expected) {
          <span>expected: told when it calls</span>
        }
        <span class="soft">{{ togetherWords() }}</span>
      </button>
      <ol>
        @for (row of gateway().uplinks; track row.key) {
          <li>
            <button
              type="button"
              class="way"
              [class]="'way ' + (row.fact?.state ?? 'untold')"
              [class.used]="row.fact?.used"
              [class.standby]="row.setting.role === 'standby'"
              [attr.aria-pressed]="shown() === row.key"
              [attr.aria-label]="wordsOf(row)"
              (click)="picked.emit(row.key)"
            >
              <span class="port mono">{{ row.port }}</span>
              <span class="line" aria-hidden="true">
                <i [style.height.px]="thick(row)"></i>
              </span>
              <span class="what">
                <b>{{ title(row) }}</b>
                <span class="mono address">{{ row.fact?.address ?? '' }}</span>
                <span class="use">{{ useWords(row) }}</span>
              </span>
              <span class="fare">
                <span class="state">{{ fare(row) }}</span>
                <span class="soft">{{ countedOf(row) }}</span>
                @if (carriedOf(row); as carried) {
                  <span [class]="carried.tone || 'soft'">{{ carried.words }}</span>
                }
              </span>
            </button>
          </li>
        }
      </ol>
    </div>
  `,
  styles: `
    .gateway {
      display: grid;
      grid-template-columns: 168px minmax(0, 1fr);
      padding: 10px 14px 12px;
    }
    .box {
      display: flex;
      flex-direction: column;
      justify-content: center;
      gap: 4px;
      padding: 8px 12px;
      font: inherit;
      color: inherit;
      text-align: left;
      background: var(--sheet);
      border: 2px solid var(--ink);
      cursor: pointer;
    }
    .box[aria-pressed='true'] {
      border-color: var(--iron);
    }
    ol {
      list-style: none;
      margin: 0;
      padding: 0;
      display: flex;
      flex-direction: column;
    }
    .way {
      width: 100%;
      display: grid;
      grid-template-columns: 52px minmax(40px, 1fr) minmax(190px, 2fr) minmax(260px, 4fr);
      align-items: center;
      gap: 10px;
      min-height: 52px;
      padding: 2px 10px 2px 0;
      font: inherit;
      color: inherit;
      text-align: left;
      background: none;
      border: none;
      border-bottom: 1px solid var(--rule);
      cursor: pointer;
    }
    .way:hover,
    .way[aria-pressed='true'] {
      background: var(--tint);
    }
    .port {
      padding-left: 8px;
    }
    .line i {
      display: block;
      background: var(--strong);
      min-height: 2px;
    }
    .used .line i {
      background: var(--iron);
    }
    .good:not(.used) .line i,
    .waits .line i {
      height: 2px;
      background: repeating-linear-gradient(90deg, var(--strong) 0 7px, transparent 7px 12px);
    }
    .gone .line i,
    .none .line i,
    .unplugged .line i {
      background: repeating-linear-gradient(90deg, var(--bad) 0 3px, transparent 3px 14px);
    }
    .unplugged .line i {
      background: repeating-linear-gradient(90deg, var(--rule) 0 3px, transparent 3px 14px);
    }
    .what,
    .fare {
      display: flex;
      flex-direction: column;
      min-width: 0;
      line-height: 17px;
    }
    .what b,
    .fare span {
      overflow: hidden;
      text-overflow: ellipsis;
    }
    .address {
      font-size: 12px;
    }
    .use {
      color: var(--soft);
      font-size: 12px;
    }
    .gone .state,
    .none .state {
      color: var(--bad);
    }
    .fare .bad {
      color: var(--bad);
    }
    .fare .caution,
    .waits .state {
      color: var(--caution);
    }
    @media (max-width: 720px) {
      .gateway {
        grid-template-columns: minmax(0, 1fr);
        gap: 6px;
        padding: 8px 10px;
      }
      .way {
        grid-template-columns: 44px 26px minmax(0, 1fr);
        padding: 8px 0;
      }
      .fare {
        grid-column: 3;
      }
    }
  `,
})
export class UplinksDrawing {
  readonly gateway = input.required<GatewayRow>();
  /** The uplink whose sheet is open, `device:port`. */
  readonly shown = input<string | null>(null);
  /** Whether the sheet of all of them together is. */
  readonly together = input(false);
  readonly time = input.required<(ms: number) => string>();
  /** An uplink, `device:port`; empty: all of the gateway’s together. */
  readonly picked = output<string>();
  protected readonly title = titleOf;
  protected readonly countedOf = countedWords;
  protected carriedOf = (row: UplinkRow) => carriedWords(row);

  protected fare = (row: UplinkRow): string => fareWords(row, this.time());

  protected thick = ({ share, fact }: UplinkRow): number =>
    fact?.used ? Math.max(3, Math.round(12 * (share || 1))) : 2;

  protected useWords({ share, setting, fact }: UplinkRow): string {
    const use = setting.role === 'standby' ? 'stands by' : `${Math.round(share * 100)} % of the sessions`;
    const able = setting.down === null ? '' : ` · ${setting.down}${setting.up === null ? '' : `/${setting.up}`} Mb/s`;
    return `${use}${setting.role === 'standby' && fact?.used ? ', used now' : ''}${able}`;
  }

  protected wordsOf = (row: UplinkRow): string =>
    `${this.gateway().device.name} ${row.port}, ${titleOf(row)}: ${this.useWords(row)}, ${this.fare(row)}`;

  protected togetherWords(): string {
    const { leaving, uplinks } = this.gateway();
    if (uplinks.length < 2) return uplinks.length === 0 ? 'no uplink' : 'one uplink';
    const shared = uplinks.filter(({ share }) => share > 0).length;
    const begins = leaving.begins === 'any' ? 'any is gone' : 'all are gone';
    const by = shared > 1 ? `shared by ${leaving.by === 'weight' ? 'weight' : 'capacity'}; ` : '';
    return shared < uplinks.length ? `${by}standby when ${shared > 1 ? begins : 'it is gone'}` : by.replace('; ', '');
  }
}
