import { HttpClient } from '@angular/common/http';
import { Component, DestroyRef, computed, inject, linkedSignal, signal, viewChild } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { asksWho } from '@iron-lattice/core/document';
import { portSetting, sheetPort } from '@iron-lattice/core/intent';
import type { Credentials } from '@iron-lattice/core/radius';
import type { SeatAnswer, SeatQuestion, SuiteQuestion } from '@iron-lattice/core/bench';
import { firstValueFrom } from 'rxjs';
import { SessionStore } from '../session/session-store';
import { attempt, type Problem } from '../session/problem';
import { SiteStore } from '../shell/site-store';
import { TrafficTokens } from '../shell/traffic-tokens';
import { TokenField } from '../ui/token-field';
import { Cell } from '../ui/cell';
import { ChoiceCell } from '../ui/choice-cell';
import { anewFor } from '../ui/anew-for';
import { typedOver } from '../ui/typed-over';
import { GivesKey, LEAST_KEY } from './gives-key';
import { KeyOf } from './key-of';
import { KnownAs } from './known-as';
import { ProbesStore } from './probes-store';
import { SaysWho } from './says-who';
import { Suite } from './suite';
import { TextCell } from '../ui/text-cell';

/** Between two echoes of a continuous ping, in milliseconds. */
const PING_MS = 1000;
/** Echoes that are shown. */
const SHOWN = 60;

/** Where a pretend client may sit: an SSID near an AP, or a port. */
interface Seat {
  readonly key: string;
  readonly label: string;
  readonly deviceId: string;
  readonly ssid?: string;
  readonly port?: string;
  /** Of a kept probe: whose MAC address it takes, and which key of a ring it gives. */
  readonly mac?: string;
  readonly given?: string;
}

const placeOf = ({ ssid, port }: Seat) => (ssid === undefined ? { port: port! } : { ssid });

/** Asks the fleet from a client's seat, once or over and over. */
@Component({
  selector: 'il-seat-bench',
  imports: [MatButtonModule, Cell, ChoiceCell, GivesKey, KeyOf, KnownAs, SaysWho, Suite, TokenField, TextCell],
  template: `
    <section aria-label="Ask from a seat">
      <h2>Ask from a seat</h2>
      <div class="cells">
        <il-choice-cell
          label="Seat"
          for="seat"
          [options]="seatOptions()"
          [value]="seatKey()"
          (chosen)="seatKey.set($event)"
        />
        @if (ring(); as of) {
          <il-key-of
            label="Gives the key of"
            for="seat-key"
            [ssidId]="of"
            [keyId]="keyId()"
            (chosen)="keyId.set($event)"
          />
        }
        @if (keysAsked()) {
          <il-gives-key for="seat-gives" [value]="gives()" (given)="gives.set($event)" />
        }
        @if (asksWho()) {
          <il-says-who for="seat" [value]="says()" (said)="says.set($event)" />
        }
        <il-known-as for="seat-mac" [mac]="mac()" (chosen)="mac.set($event)" />
        @if (session.mayChange()) {
          <il-text-cell
            label="Keep it as a probe"
            for="seat-name"
            example="Ticket hall tablet"
            [most]="60"
            [value]="probeName()"
            (typed)="probeName.set($event)"
            (entered)="keepProbe()"
          >
            <ng-container ngProjectAs="[beside]">
              @if (probe(); as kept) {
                <button mat-button (click)="dropProbe(kept.id)">Forget</button>
              } @else {
                <button mat-button [disabled]="probeName().trim() === '' || !seat()" (click)="keepProbe()">
                  Keep probe
                </button>
              }
            </ng-container>
          </il-text-cell>
        }
        <il-choice-cell label="Does" for="seat-does" [options]="doings" [value]="does()" (chosen)="does.set($event)" />
        @if (does() === 'connect') {
          <il-choice-cell
            label="Protocol"
            for="seat-protocol"
            [options]="protocols"
            [value]="protocol()"
            (chosen)="protocol.set($event)"
          />
          <il-text-cell
            label="Port"
            for="seat-number"
            [mono]="true"
            [value]="number().toString()"
            (typed)="number.set(+$event)"
          />
        }
        <il-cell
          [label]="does() === 'lookup' ? 'Name' : 'Address or name'"
          for="seat-target"
          [flaw]="problem()?.message"
        >
          <il-token-field
            label="Address or name"
            for="seat-target"
            placeholder="10.10.20.7"
            [single]="true"
            [value]="target()"
            [source]="tokens.targets()"
            (typed)="target.set($event)"
            (typing)="half.set($event)"
            (done)="once()"
          />
        </il-cell>
        <div class="cell acts">
          <button mat-flat-button [disabled]="!question() || busy()" (click)="once()">Try</button>
          @if (does() === 'ping') {
            <button mat-stroked-button [disabled]="!question()" (click)="toggle()">
              {{ pinging() ? 'Stop' : 'Keep pinging' }}
            </button>
          }
          <button mat-button [disabled]="!keepable()" (click)="keep('answer')">Keep: should answer</button>
          <button mat-button [disabled]="!keepable()" (click)="keep('none')">Keep: should not</button>
        </div>
      </div>
      @if (echoes().length > 0) {
        <p class="echoes" role="img" [attr.aria-label]="echoWords()">
          @for (echo of echoes(); track $index) {
            <i [class.lost]="!echo"></i>
          }
          <span class="soft">{{ echoWords() }}</span>
        </p>
      }
      @if (answer(); as got) {
        <div class="answer" aria-live="polite">
          <p>
            <b [class.good]="got.live.ok" [class.bad]="!got.live.ok">{{ got.live.ok ? 'Answers' : 'No answer' }}</b>
            <span class="mono text">{{ got.live.text }}</span>
          </p>
          @if (got.draft; as draft) {
            <p class="soft">{{ draft.text }}</p>
          }
          @if (got.differs) {
            <p class="differs">The draft and what devices run differ here.</p>
          }
        </div>
      }
    </section>
    <il-suite />
  `,
  styles: `
    section {
      border-top: 1px solid var(--ink);
    }
    h2 {
      padding: 8px 14px;
    }
    .cells {
      background: var(--sheet);
      border-top: 1px solid var(--rule);
    }
    .keeping {
      display: flex;
      gap: 6px;
      align-items: center;
    }
    .acts {
      display: flex;
      flex-wrap: wrap;
      gap: 6px;
      align-items: center;
      flex: 2 1 340px;
    }
    .answer {
      padding: 6px 14px 10px;
    }
    .text {
      white-space: pre-line;
      display: inline-block;
      margin-left: 8px;
      vertical-align: top;
    }
    .differs {
      color: var(--caution);
      font-weight: 600;
    }
    .echoes {
      display: flex;
      align-items: center;
      gap: 2px;
      padding: 8px 14px 0;
    }
    .echoes i {
      width: 6px;
      height: 16px;
      background: var(--good);
    }
    .echoes i.lost {
      height: 4px;
      background: var(--bad);
    }
    .echoes span {
      margin-left: 8px;
    }
  `,
})
export class SeatBench {
  private readonly http = inject(HttpClient);
  protected readonly tokens = inject(TrafficTokens);
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  protected readonly doings = [
    { value: 'ping', label: 'Ping' },
    { value: 'trace', label: 'Trace the route' },
    { value: 'lookup', label: 'Look up a name' },
    { value: 'connect', label: 'Test a port' },
  ];
  protected readonly protocols = [
    { value: 'tcp', label: 'TCP' },
    { value: 'udp', label: 'UDP' },
  ];

  private readonly kept = inject(ProbesStore);

  /** Seats of this site: its kept probes, its SSIDs near each AP, and ports of switches that carry one segment untagged. */
  protected readonly seats = computed((): readonly Seat[] => {
    const devices = this.store.devices();
    const ssids = devices
      .filter(({ kind }) => kind === 'ap')
      .flatMap(({ id, name }) =>
        this.store.ssids().map((ssid) => ({
          key: `${id} ssid ${ssid.name}`,
          label: `${ssid.name}, near ${name}`,
          deviceId: id,
          ssid: ssid.name,
        })),
      );
    const ports = this.store.consequences()?.grid.columns ?? [];
    const sockets = ports.flatMap(({ key, deviceId, port, group }) =>
      deviceId && port && key.startsWith('port:')
        ? [{ key: `${deviceId} port ${port}`, label: `${group} port ${port}`, deviceId, port }]
        : [],
    );
    const all: readonly Seat[] = [...ssids, ...sockets];
    // Kept probes come first, under their names; one whose place is gone is said to be.
    const kept = this.kept.probes().map(({ id, name, seat: { key: given, ...seat } }): Seat => {
      const there = all.find(
        (each) => each.deviceId === seat.deviceId && each.ssid === seat.ssid && each.port === seat.port,
      );
      return {
        key: `probe ${id}`,
        label: `${name}: ${there?.label ?? 'its place is gone'}`,
        ...seat,
        ...(given ? { given } : {}),
      };
    });
    return [...kept, ...all];
  });
  protected readonly seatOptions = computed(() => this.seats().map(({ key, label }) => ({ value: key, label })));
  protected readonly seatKey = linkedSignal<readonly Seat[], string>({
    source: this.seats,
    computation: (seats, previous) => (seats.find(({ key }) => key === previous?.value) ?? seats[0])?.key ?? '',
  });
  protected readonly seat = computed(() => this.seats().find(({ key }) => key === this.seatKey()));
  /** Whose MAC address the client takes; empty: one that nobody knows. */
  protected readonly mac = typedOver(this.seatKey, () => this.seat()?.mac ?? '');
  /** Id of the seat's SSID where that asks for keys of a ring. */
  protected readonly ring = computed(() => (this.keysAsked() ? undefined : this.chosenRing()?.id));
  private readonly chosenRing = computed(() =>
    this.store.ssids().find(({ name, ring }) => ring && name === this.seat()?.ssid),
  );
  /** Whether servers name the keys of that ring; and the key that is given then. */
  protected readonly keysAsked = computed(() => this.chosenRing()?.keysAt === 'servers');
  protected readonly gives = anewFor(this.seatKey, () => '');
  /** Id of the key that it gives; empty: one that is in no ring. */
  protected readonly keyId = typedOver(this.seatKey, () => this.seat()?.given ?? '');
  /** Whether who somebody is gets asked there (802.1X). */
  protected readonly asksWho = computed(() => {
    const [seat, site] = [this.seat(), this.store.site()];
    if (seat?.ssid !== undefined)
      return this.store.ssids().some(({ name, security }) => name === seat.ssid && asksWho(security));
    const device = this.store.data()?.roster.find(({ id }) => id === seat?.deviceId);
    if (!site || !device || seat?.port === undefined || !sheetPort(device, seat.port)) return false;
    return portSetting(site, device, seat.port).auth.includes('802.1X');
  });
  /** Who it says to be; null: it does not say. */
  protected readonly says = anewFor<Credentials | null>(this.seatKey, () => null);
  private readonly whose = computed(() => ({
    ...(this.mac() === '' ? {} : { mac: this.mac() }),
    ...(this.ring() && this.keyId() !== '' ? { key: this.keyId() } : {}),
  }));
  /** The kept probe that is chosen. */
  protected readonly probe = computed(() => this.kept.probes().find(({ id }) => this.seatKey() === `probe ${id}`));
  protected readonly probeName = typedOver(this.seatKey, () => this.probe()?.name ?? '');
  protected readonly does = signal<SeatQuestion['probe']['does']>('ping');
  protected readonly protocol = signal<'tcp' | 'udp'>('tcp');
  protected readonly number = signal(443);
  protected readonly target = signal('');
  /** What is being typed and is no target yet. */
  protected readonly half = signal('');
  protected readonly question = computed((): SeatQuestion | null => {
    const seat = this.seat();
    const target = this.half().trim() || this.target().trim();
    if (!seat || target === '') return null;
    const entry = this.asksWho() ? this.says() : null;
    const gives = this.keysAsked() && this.gives().length >= LEAST_KEY ? { gives: this.gives() } : {};
    const at = { ...placeOf(seat), ...this.whose(), ...(entry ? { entry } : {}), ...gives };
    const more = this.does() === 'connect' ? { protocol: this.protocol(), number: this.number() } : {};
    return { deviceId: seat.deviceId, probe: { ...at, does: this.does(), ...more }, target };
  });

  /** Whether the question can be asked again by itself: one with a password or a key cannot, which are kept nowhere. */
  protected readonly keepable = computed(() => {
    const probe = this.question()?.probe;
    return probe !== undefined && probe.entry === undefined && probe.gives === undefined;
  });
  protected readonly busy = signal(false);
  protected readonly problem = signal<Problem | null>(null);
  protected readonly answer = signal<SeatAnswer | null>(null);
  protected readonly pinging = signal(false);
  protected readonly echoes = signal<readonly boolean[]>([]);
  protected readonly echoWords = computed(() => {
    const echoes = this.echoes();
    return `${echoes.filter(Boolean).length} of ${echoes.length} came back`;
  });
  private timer: ReturnType<typeof setTimeout> | undefined;

  private readonly suite = viewChild.required(Suite);

  constructor() {
    inject(DestroyRef).onDestroy(() => clearTimeout(this.timer));
  }

  protected async once(): Promise<void> {
    const question = this.question();
    if (!question) return;
    await attempt(this.busy, this.problem, async () => {
      this.answer.set(await this.try(question));
    });
  }

  protected async keepProbe(): Promise<void> {
    const [seat, name] = [this.seat(), this.probeName().trim()];
    if (!seat || name === '') return;
    await attempt(this.busy, this.problem, async () => {
      const kept = await this.kept.keep(name, { deviceId: seat.deviceId, ...placeOf(seat), ...this.whose() });
      this.seatKey.set(`probe ${kept.id}`);
    });
  }

  protected async dropProbe(id: string): Promise<void> {
    await attempt(this.busy, this.problem, () => this.kept.drop(id));
  }

  /** Pings over and over until told to stop: what a rollout changes is seen as it happens. */
  protected toggle(): void {
    this.pinging.update((on) => !on);
    clearTimeout(this.timer);
    this.echoes.set(this.pinging() ? [] : this.echoes());
    if (this.pinging()) void this.echo();
  }

  protected async keep(expects: SuiteQuestion['expects']): Promise<void> {
    await attempt(this.busy, this.problem, () => this.suite().keep({ ...this.question()!, expects }));
  }

  private try(question: SeatQuestion): Promise<SeatAnswer> {
    const url = `/api/drafts/${this.store.draft()?.id}/sites/${this.store.siteId()}/seat-tries`;
    return firstValueFrom(this.http.post<SeatAnswer>(url, question));
  }

  private async echo(): Promise<void> {
    const question = this.question();
    if (!this.pinging() || question?.probe.does !== 'ping') return this.pinging.set(false);
    const done = await attempt(null, this.problem, async () => {
      const answer = await this.try(question);
      this.answer.set(answer);
      this.echoes.update((echoes) => [...echoes, answer.live.ok].slice(-SHOWN));
    });
    if (!done) return this.pinging.set(false);
    if (this.pinging()) this.timer = setTimeout(() => void this.echo(), PING_MS);
  }
}
