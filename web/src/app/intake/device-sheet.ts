import { Component, computed, inject, input, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { DeviceView } from '@iron-lattice/core/intake';
import { MESH_PORT } from '@iron-lattice/core/intent';
import { RadioForm } from '../shell/radio-form';
import { airWords, radioRows, type RadioRow } from '../shell/radio-rows';
import { UpdateForm } from '../shell/update-form';
import { SessionStore } from '../session/session-store';
import { EstateStore } from '../shell/estate-store';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { Sheet } from '../ui/sheet';
import { StateMark } from '../ui/state-mark';
import { DeviceAsk } from './device-ask';
import { sinceWords } from './device-columns';
import { DeviceForm } from './device-form';
import { DeviceHistory } from './device-history';
import { DevicePlace } from './device-place';
import { DeviceRuns } from './device-runs';
import { firstWords, NO_CALL_YET } from './first-words';
import { IntakeApi } from './intake-api';
import { liveFetch } from '../shell/live-fetch';

const PARTS = ['Overview', 'Set', 'Radios', 'Ask', 'Around', 'Runs', 'Firmware', 'Place', 'History'] as const;
type Part = (typeof PARTS)[number];

/** One device: who it is, what it runs, what can be said of it and what it can be asked. */
@Component({
  selector: 'il-device-sheet',
  imports: [
    MatButtonModule,
    Cell,
    Sheet,
    StateMark,
    DeviceAsk,
    DeviceForm,
    DeviceHistory,
    DevicePlace,
    DeviceRuns,
    RadioForm,
    UpdateForm,
  ],
  template: `
    @if (device(); as device) {
      <il-sheet
        [heading]="device.name ?? device.serial"
        [note]="device.title || 'model not said'"
        (closed)="closed.emit()"
      >
        <il-state-mark lead [state]="device.state" />
        <ng-container ngProjectAs="[actions]">
          @if (ours()) {
            <div class="choices parts" role="group" aria-label="Part of the sheet">
              @for (each of parts(); track each) {
                <button type="button" [attr.aria-pressed]="part() === each" (click)="part.set(each)">{{ each }}</button>
              }
            </div>
          } @else if (device.state === 'calling' && session.mayChange() && site.siteId()) {
            <button mat-flat-button (click)="claim.emit(device.id)">Claim it for this site</button>
          } @else if (device.state === 'expected' && session.mayChange()) {
            <button mat-stroked-button (click)="unexpect(device)">Take it off the list</button>
          }
        </ng-container>
        @switch (part()) {
          @case ('Set') {
            <il-device-form [device]="device" (changed)="reload()" />
          }
          @case ('Radios') {
            @for (row of radios(); track row.key) {
              <h3>
                {{ row.band }} GHz <span class="soft">{{ onAir(row) }}</span>
              </h3>
              <div class="cells">
                <il-radio-form [rows]="[row]" [prefix]="'radio-' + row.band.replace('.', '-')" />
              </div>
            } @empty {
              <p class="soft none">What is said of its radios stands with its site: open it there.</p>
            }
          }
          @case ('Ask') {
            <il-device-ask [device]="device" [gateway]="gateway()" />
          }
          @case ('Around') {
            <div class="cells">
              <il-cell label="Neighbours, as it hears them" size="wide">
                @for (each of device.neighbours; track each.port + each.name) {
                  <div class="value mono">{{ neighbourWords(each) }}</div>
                } @empty {
                  <div class="value soft">It hears nobody on any port.</div>
                }
              </il-cell>
              @for (tunnel of [...(device.tunnel ? [device.tunnel] : []), ...device.landings]; track tunnel.to) {
                <il-cell [label]="tunnel === device.tunnel ? 'Tunnel of SSIDs' : 'Tunnel of SSIDs to another site'">
                  <div class="value" [class.caution]="!tunnel.answers">
                    <span class="mono">{{ tunnel.to }}</span> {{ tunnel.answers ? 'answers' : 'is silent' }}
                  </div>
                </il-cell>
              }
              @if (device.kind === 'ap') {
                <il-cell label="Clients" size="wide">
                  @for (client of device.clients; track client.mac) {
                    <div class="value mono">
                      {{ client.mac }} · {{ client.ssid }} · VLAN {{ client.vlan }} ·
                      {{ client.address ?? 'no address' }}
                    </div>
                  } @empty {
                    <div class="value soft">None at the moment.</div>
                  }
                </il-cell>
              }
            </div>
          }
          @case ('Runs') {
            <il-device-runs [device]="device" (changed)="reload()" />
          }
          @case ('Firmware') {
            <div class="cells">
              <il-cell label="Runs release" [hint]="device.firmwareState">
                <div class="value mono">{{ device.firmware }}</div>
              </il-cell>
              <il-update-form [deviceIds]="[device.id]" />
            </div>
          }
          @case ('Place') {
            <il-device-place [device]="device" (changed)="reload()" (gone)="gone.emit()" />
          }
          @case ('History') {
            <il-device-history [device]="device" />
          }
          @default {
            <div class="cells">
              @if (device.trouble; as trouble) {
                <il-cell label="Trouble" size="full">
                  <div class="value bad">
                    {{ trouble }}
                    @if (device.state === 'stuck' && session.mayChange()) {
                      <button mat-stroked-button (click)="retry()">Tell it again</button>
                    }
                  </div>
                </il-cell>
              }
              @if (device.updating; as release) {
                <il-cell label="Update" size="full">
                  <div class="value caution">
                    It is being updated to {{ release }}. Nothing else is pushed to it meanwhile.
                  </div>
                </il-cell>
              }
              <il-cell label="State">
                <div class="value">{{ device.state }}</div>
              </il-cell>
              @if (ours()) {
                <il-cell
                  [label]="device.fixed ? 'Address, fixed' : device.kind === 'gateway' ? 'Address' : 'Address, by DHCP'"
                >
                  <div class="value mono">{{ device.address ?? 'not reported yet' }}</div>
                </il-cell>
                <il-cell label="Hangs on">
                  <div class="value mono">{{ device.hangsOn ?? 'not reported yet' }}</div>
                </il-cell>
                <il-cell label="Up for">
                  <div class="value">{{ uptime() || '–' }}</div>
                </il-cell>
              } @else {
                <il-cell [label]="device.state === 'expected' ? 'Expected at' : 'Site'">
                  <div class="value">
                    {{ siteName() || 'nobody’s yet: choose it in the table and claim it into a site' }}
                  </div>
                </il-cell>
              }
              @if (device.first; as first) {
                <il-cell label="Said at its own page" size="wide">
                  <div class="value">{{ firstWords(first) }}</div>
                </il-cell>
              } @else if (device.state === 'expected' && mayBeGateway(device)) {
                <il-cell label="A gateway that does not call?" size="full">
                  <div class="value">{{ noCallYet }}</div>
                </il-cell>
              }
              <il-cell label="Serial number">
                <div class="value mono">{{ device.serial }}</div>
              </il-cell>
              <il-cell label="MAC address">
                <div class="value mono">{{ device.mac || 'not known before it calls' }}</div>
              </il-cell>
              <il-cell label="Key on its label">
                <div class="value mono">{{ device.fingerprint || 'not known before it calls' }}</div>
              </il-cell>
              @if (device.firmware) {
                <il-cell label="Firmware">
                  <div class="value mono">
                    {{ device.firmware }}
                    <span
                      [class.caution]="device.firmwareState === 'older'"
                      [class.bad]="device.firmwareState === 'unsupported'"
                      >{{ device.firmwareState === 'unlisted' ? '' : device.firmwareState }}</span
                    >
                  </div>
                </il-cell>
              }
              @if (ours()) {
                <il-cell label="Runs revision">
                  <div class="value">
                    {{ device.revision === null ? 'none' : device.revision === 0 ? 'as founded' : device.revision }}
                  </div>
                </il-cell>
                @if (device.tags.length > 0) {
                  <il-cell label="Tags">
                    <div class="value">{{ device.tags.join(', ') }}</div>
                  </il-cell>
                }
              }
            </div>
          }
        }
      </il-sheet>
    }
  `,
  styles: `
    :host {
      display: contents;
    }
    .value button {
      margin-left: 10px;
    }
    .parts button {
      padding: 0 8px;
    }
    h3 {
      margin: 8px 14px 0;
    }
    .none {
      padding: 0 14px;
    }
    @media (max-width: 720px) {
      .parts {
        overflow-x: auto;
        max-width: 100%;
      }
      .parts button {
        height: 36px;
        flex: none;
      }
    }
  `,
})
export class DeviceSheet {
  private readonly api = inject(IntakeApi);
  protected readonly site = inject(SiteStore);
  private readonly estate = inject(EstateStore);
  protected readonly session = inject(SessionStore);
  readonly id = input.required<string>();
  readonly closed = output<void>();
  /** The device is nobody's any more. */
  readonly gone = output<void>();
  /** Id of a calling device that is to be claimed. */
  readonly claim = output<string>();

  protected readonly part = signal<Part>('Overview');
  private readonly fetched = liveFetch({
    of: () => this.id(),
    fetch: (id) => this.api.device(id),
    when: (event) => event.type === 'device' && event.deviceIds.includes(this.id()),
    stays: true, // the sheet does not blink
  });
  protected readonly device = this.fetched.value;
  protected readonly ours = computed(() => !['expected', 'calling', undefined].includes(this.device()?.state));
  protected readonly parts = computed(() =>
    PARTS.filter(
      (part) => (part !== 'Ask' || this.session.mayChange()) && (part !== 'Radios' || this.device()?.kind === 'ap'),
    ),
  );
  /** Its radios, as the draft has them where it stands in the site that is in front. */
  protected readonly radios = computed((): readonly RadioRow[] => {
    const [data, device] = [this.site.data(), this.device()];
    return data && device
      ? radioRows(
          data.site,
          data.roster.filter(({ id }) => id === device.id),
          [device],
        )
      : [];
  });
  protected readonly onAir = (row: RadioRow): string => airWords(row, Date.now());
  protected readonly siteName = computed(
    () => this.estate.estate()?.sites.find((site) => site.id === this.device()?.siteId)?.name ?? '',
  );
  protected readonly neighbourWords = ({ port, name, theirPort }: DeviceView['neighbours'][number]): string =>
    port === MESH_PORT ? `by radio · ${name}` : `port ${port} · ${name} port ${theirPort}`;
  protected readonly firstWords = firstWords;
  protected readonly noCallYet = NO_CALL_YET;
  /** Of an expected device maybe nobody said which model it is. */
  protected readonly mayBeGateway = ({ kind }: DeviceView): boolean => kind === null || kind === 'gateway';
  protected readonly gateway = computed(() => {
    const site = this.site.site();
    return site?.segments.find((segment) => segment.id === site.managementId)?.gateway ?? '';
  });
  protected readonly uptime = computed(() => sinceWords(this.device()?.bootedAt ?? null, Date.now()));

  protected reload(): void {
    void this.fetched.again();
  }

  protected retry(): Promise<boolean> {
    return this.site.attempt(() => this.api.retry(this.id()));
  }

  protected async unexpect(device: DeviceView): Promise<void> {
    if (await this.site.attempt(() => this.api.unexpect([device.id]))) this.gone.emit();
  }
}
