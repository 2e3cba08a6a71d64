import { DatePipe } from '@angular/common';
import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import {
  newestOf,
  compareVersions,
  type ReleaseView,
  type UpdateBatchView,
  type UpdateState,
} from '@iron-lattice/core/firmware';
import type { DeviceRows } from '@iron-lattice/core/intake';
import { firstValueFrom } from 'rxjs';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { FileDrop } from '../ui/file-drop';
import { Sheet } from '../ui/sheet';
import { Stage } from '../ui/stage';
import { UpdateForm } from '../shell/update-form';
import type { Happening } from '../shell/live-events';
import { ProgressCount } from '../ui/progress-count';
import { liveFetch } from '../shell/live-fetch';
import { Cell } from '../ui/cell';

const STATE_WORDS: Readonly<Record<UpdateState, string>> = {
  waiting: 'waits',
  sending: 'fetches and writes it',
  restarting: 'restarts',
  done: 'done',
  failed: 'failed',
  held: 'held back',
  cancelled: 'called off',
};
const MODE_WORDS = { now: 'now', window: 'in the window', staged: 'one first, then the rest' } as const;

/** How often updates are followed at the most, in milliseconds. */
const FOLLOW_MS = 300;

/** The catalogue of releases, what runs them, and how updates get on. */
@Component({
  selector: 'il-firmware-page',
  imports: [ProgressCount, DatePipe, MatButtonModule, FileDrop, Sheet, Stage, UpdateForm, Cell],
  template: `
    <il-stage heading="Firmware" [note]="note()">
      <table class="grid">
        <caption class="visually-hidden">
          Releases
        </caption>
        <thead>
          <tr>
            <th>Model</th>
            <th>Release</th>
            <th>Out since</th>
            <th>Is</th>
            <th>Devices run it</th>
            <th class="second">Takes it from</th>
            <th class="second">Notes</th>
          </tr>
        </thead>
        <tbody>
          @for (each of rows(); track each.model + each.version) {
            <tr [class.first]="each.first" [class.chosen]="shown() === each" (click)="shown.set(each)">
              <td>{{ each.first ? each.model : '' }}</td>
              <td class="mono">
                <button class="plain" (click)="shown.set(each); $event.stopPropagation()">{{ each.version }}</button>
              </td>
              <td>{{ each.releasedOn | date: 'd MMM y' }}</td>
              <td [class]="each.tone">{{ each.is }}</td>
              <td>{{ each.running || '–' }}</td>
              <td class="mono second">{{ each.minimumPrevious ? each.minimumPrevious + ' or newer' : 'any' }}</td>
              <td class="second notes">{{ each.notes }}</td>
            </tr>
          } @empty {
            <tr class="empty">
              <td colspan="7">
                No release yet. Add one from its file below; devices of its model can then be updated.
              </td>
            </tr>
          }
        </tbody>
      </table>
      @if (session.mayChange()) {
        <div class="add">
          <il-file-drop
            label="Add a release"
            hint="Its file holds the image, the notes, and the least release that takes it."
            accept=".json"
            (file)="add($event)"
          />
        </div>
      }
      <h2 class="head">Updates</h2>
      @for (batch of batches(); track batch.id) {
        <details [open]="$first || isOpen(batch)">
          <summary>
            <b>{{ batch.at | date: 'd MMM, HH:mm' }}</b>
            <span class="soft">{{ batch.by }}, {{ modes[batch.mode] }}</span>
            <span class="grow"></span>
            @if (count(batch, 'failed') > 0) {
              <span class="bad">{{ count(batch, 'failed') }} failed</span>
            }
            <il-progress-count [done]="over(batch)" [of]="batch.updates.length" what="devices" />
          </summary>
          @if (session.mayChange()) {
            <p class="acts">
              @if (count(batch, 'held') > 0) {
                <button mat-stroked-button (click)="act('go-on', batch)">Go on with the rest</button>
              }
              @if (count(batch, 'waiting') + count(batch, 'held') > 0) {
                <button mat-stroked-button (click)="act('cancel', batch)">Call off what has not begun</button>
              }
              @if (retriable(batch).length > 0) {
                <button mat-stroked-button (click)="again(batch)">Try the failed again</button>
              }
            </p>
          }
          <ol>
            @for (each of batch.updates; track each.id) {
              <li>
                <span class="mono name">{{ each.name }}</span>
                <span class="mono way">{{ each.from }} → {{ each.release }}</span>
                <span
                  class="state"
                  [class.bad]="each.state === 'failed'"
                  [class.good]="each.state === 'done'"
                  [class.caution]="each.state === 'held'"
                >
                  {{ words[each.state] }}{{ each.canary ? ', first' : '' }}
                  @if (each.state === 'sending') {
                    {{ each.percent }} %
                  }
                  @if (each.state === 'waiting' && later(each.notBefore)) {
                    until {{ each.notBefore | date: 'EEE d MMM, HH:mm' }}
                  }
                </span>
                <span class="soft">{{ each.reason }}</span>
              </li>
            }
          </ol>
        </details>
      } @empty {
        <p class="soft none">No update yet. Choose a release above, or devices under Devices.</p>
      }
      <ng-container ngProjectAs="[foot]">
        @if (shown(); as release) {
          <il-sheet [heading]="release.model + ' ' + release.version" [note]="release.is" (closed)="shown.set(null)">
            <div class="cells">
              <il-cell label="Notes" size="wide">
                <div class="value">{{ release.notes || 'None.' }}</div>
              </il-cell>
              <il-cell label="Image" size="wide">
                <div class="value mono">{{ release.size }} octets, SHA-256 {{ release.sha256.slice(0, 16) }}…</div>
              </il-cell>
              @if (session.mayChange() && release.is === 'current') {
                @if (older().length > 0) {
                  <il-update-form [deviceIds]="older()" />
                } @else {
                  <il-cell label="Update" size="full">
                    <div class="value soft">Every device of this model runs it.</div>
                  </il-cell>
                }
              }
            </div>
          </il-sheet>
        }
      </ng-container>
    </il-stage>
  `,
  styles: `
    .first td {
      border-top: 1px solid var(--strong);
    }
    .notes {
      white-space: normal !important;
      max-width: 460px;
      line-height: 16px;
      padding-block: 4px !important;
    }
    .add {
      padding: 10px 14px;
      max-width: 460px;
    }
    .head {
      padding: 6px 14px;
      border-bottom: 1px solid var(--ink);
    }
    .none {
      padding: 8px 14px;
    }
    summary {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 4px 10px;
      padding: 6px 14px;
      background: var(--sheet);
      border-bottom: 1px solid var(--rule);
      cursor: pointer;
    }
    .acts {
      display: flex;
      gap: 8px;
      padding: 6px 14px 0;
    }
    .acts:empty {
      display: none;
    }
    ol {
      list-style: none;
      margin: 0;
      padding: 2px 14px 8px;
    }
    li {
      display: flex;
      flex-wrap: wrap;
      gap: 2px 12px;
      min-height: 25px;
      align-items: center;
    }
    .name {
      width: 110px;
    }
    .way {
      width: 130px;
    }
    .state {
      min-width: 150px;
    }
    @media (max-width: 720px) {
      .second {
        display: none;
      }
    }
  `,
})
export class FirmwarePage {
  private readonly http = inject(HttpClient);
  private readonly site = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  protected readonly words = STATE_WORDS;
  protected readonly modes = MODE_WORDS;
  protected readonly shown = signal<Row | null>(null);

  private readonly followed = { of: () => 'all', when: ({ type }: Happening) => type === 'firmware', every: FOLLOW_MS };
  private readonly catalogue = liveFetch({
    ...this.followed,
    fetch: () => firstValueFrom(this.http.get<ReleaseView[]>('/api/firmware')),
  });
  private readonly updates = liveFetch({
    ...this.followed,
    fetch: () => firstValueFrom(this.http.get<UpdateBatchView[]>('/api/firmware/updates')),
  });
  /** Devices of ours, to know whom a release is for. */
  private readonly devices = liveFetch({
    ...this.followed,
    fetch: () => firstValueFrom(this.http.get<DeviceRows>('/api/devices')),
  });

  protected readonly rows = computed((): Row[] => {
    const all = this.catalogue.value() ?? [];
    const models = [...new Set(all.map((release) => release.model))].sort();
    return models.flatMap((model) => {
      const newest = newestOf(all, model)?.version;
      return all
        .filter((release) => release.model === model)
        .sort((a, b) => compareVersions(b.version, a.version))
        .map((release, at): Row => {
          const is = release.unsupported ? 'unsupported' : release.version === newest ? 'current' : 'older';
          return { ...release, is, tone: is === 'current' ? 'good' : is === 'older' ? '' : 'bad', first: at === 0 };
        });
    });
  });
  protected readonly batches = computed(() => this.updates.value() ?? []);
  protected readonly older = computed(() => {
    const release = this.shown();
    const rows = this.devices.value()?.rows ?? [];
    return rows
      .filter(
        (row) =>
          row.model === release?.model && row.revision !== null && compareVersions(row.firmware, release.version) < 0,
      )
      .map((row) => row.id);
  });
  protected readonly note = computed(() => {
    const rows = this.rows();
    const behind = rows.filter((row) => row.is !== 'current').reduce((sum, row) => sum + row.running, 0);
    return behind === 0
      ? 'every device is current'
      : behind === 1
        ? '1 device could be newer'
        : `${behind} devices could be newer`;
  });

  protected count = (batch: UpdateBatchView, state: UpdateState): number =>
    batch.updates.filter((each) => each.state === state).length;
  protected over = (batch: UpdateBatchView): number => batch.updates.filter((each) => each.endedAt !== null).length;
  protected isOpen = (batch: UpdateBatchView): boolean => this.over(batch) < batch.updates.length;
  protected later = (moment: string): boolean => Date.parse(moment) > Date.now() + 5000;

  protected act(what: 'cancel' | 'go-on', batch: UpdateBatchView): Promise<boolean> {
    return this.site.attempt(async () => {
      await firstValueFrom(this.http.post(`/api/firmware/updates/${batch.id}/${what}`, {}));
      await this.updates.again();
    });
  }

  /** Devices whose update failed and that no later batch has taken up. */
  protected retriable(batch: UpdateBatchView): string[] {
    const later = this.batches().slice(0, this.batches().indexOf(batch));
    const taken = new Set(later.flatMap((each) => each.updates.map((update) => update.deviceId)));
    return batch.updates
      .filter((update) => update.state === 'failed' && !taken.has(update.deviceId))
      .map((update) => update.deviceId);
  }

  protected again(batch: UpdateBatchView): Promise<boolean> {
    return this.site.attempt(async () => {
      const request = { deviceIds: this.retriable(batch), mode: 'now' };
      await firstValueFrom(this.http.post('/api/firmware/updates', request));
      await this.updates.again();
    });
  }

  protected add(file: File): Promise<boolean> {
    return this.site.attempt(async () => {
      const headers = { 'content-type': 'application/octet-stream' };
      await firstValueFrom(this.http.post('/api/firmware', file, { headers }));
      await this.catalogue.again();
    });
  }
}

interface Row extends ReleaseView {
  readonly is: 'current' | 'older' | 'unsupported';
  readonly tone: string;
  /** Whether it is the first of its model in the list. */
  readonly first: boolean;
}
