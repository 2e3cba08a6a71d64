import { Component, input } from '@angular/core';
import type { WaveForeseen, WaveView } from '@iron-lattice/core/rollout';
import { counted } from '../ui/counted';
import { ProgressCount } from '../ui/progress-count';

const WORDS: Readonly<Record<WaveView['state'], string>> = {
  waiting: 'waits',
  telling: 'being told',
  through: 'through',
  'put-back': 'put back',
  'not-told': 'not told',
};

/** The waves of a rollout, one below the other: as they are foreseen, or with how far each is. */
@Component({
  selector: 'il-wave-list',
  imports: [ProgressCount],
  template: `
    <ol aria-label="Waves">
      @for (wave of waves(); track $index) {
        <li [class.now]="$index === now()" [attr.aria-current]="$index === now() ? 'step' : null">
          <b class="number mono">{{ $index + 1 }}</b>
          <span class="name">{{ wave.name }}</span>
          <span class="told">
            {{ counted(wave.devices, 'device') }} at {{ counted(wave.sites, 'site') }}
            @if (wave.silent > 0) {
              <span class="soft">{{ wave.silent }} silent</span>
            }
          </span>
          @if (progressOf(wave); as view) {
            <span class="state" [class.good]="view.state === 'through'" [class.bad]="(view.counts.failed ?? 0) > 0">
              {{
                (view.counts.failed ?? 0) > 0 ? counted(view.counts.failed!, 'device') + ' failed' : words[view.state]
              }}
            </span>
            <il-progress-count
              [done]="(view.counts.kept ?? 0) + (view.counts.later ?? 0)"
              [of]="view.devices"
              what="devices"
            />
            @if (view.clients; as clients) {
              <span class="soft">{{ clients.now }} of {{ counted(clients.before, 'client') }} there</span>
            }
          }
          <span class="soft names">{{ names(wave) }}</span>
        </li>
      }
    </ol>
  `,
  styles: `
    ol {
      list-style: none;
      margin: 0;
      padding: 4px 0;
    }
    li {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 2px 14px;
      padding: 4px 14px;
      border-left: 3px solid transparent;
    }
    li.now {
      border-left-color: var(--iron);
      background: var(--sheet);
    }
    .number {
      min-width: 18px;
    }
    .name {
      min-width: 170px;
      font-weight: 500;
    }
    .told {
      min-width: 170px;
    }
    .state {
      min-width: 90px;
    }
    .names {
      overflow-wrap: anywhere;
    }
  `,
})
export class WaveList {
  readonly waves = input.required<readonly (WaveForeseen | WaveView)[]>();
  /** The wave that is told now; null before and after. */
  readonly now = input<number | null>(null);
  protected readonly words = WORDS;
  protected readonly counted = counted;
  protected readonly progressOf = (wave: WaveForeseen | WaveView): WaveView | null => ('state' in wave ? wave : null);

  protected names({ siteNames, sites }: WaveForeseen): string {
    return `${siteNames.join(', ')}${sites > siteNames.length ? ` and ${sites - siteNames.length} more` : ''}`;
  }
}
