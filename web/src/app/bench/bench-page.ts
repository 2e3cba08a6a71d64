import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input, linkedSignal, resource, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import type { AnyProbe, GetsRow, PortProbe, Probe, WalkRequest, WalkResult } from '@iron-lattice/core/bench';
import { asksPassphrase, asksWho } from '@iron-lattice/core/document';
import type { Credentials } from '@iron-lattice/core/radius';
import { sheetOf, type Band } from '@iron-lattice/core/hardware';
import { ActivatedRoute, Router } from '@angular/router';
import { firstValueFrom } from 'rxjs';
import { SessionStore } from '../session/session-store';
import { PastChoice } from '../shell/past-choice';
import { PastStore } from '../shell/past-store';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { Stage } from '../ui/stage';
import { GetsSheet } from './gets-sheet';
import { GetsView, type GetsAsked } from './gets-view';
import { GivesKey, LEAST_KEY } from './gives-key';
import { KeyOf } from './key-of';
import { KnownAs } from './known-as';
import { PortChoice, type ChosenPort } from './port-choice';
import { ProbesStore } from './probes-store';
import { anewFor } from '../ui/anew-for';
import { SaysWho } from './says-who';
import { SeatBench } from './seat-bench';
import { StartFrom, type Start } from './start-from';
import { WalkTo, walkTarget } from './walk-to';
import { WalkTrace } from './walk-trace';

/** A probe and its walks, on the draft and on what is live, side by side. */
@Component({
  selector: 'il-bench-page',
  imports: [
    FormsModule,
    MatButtonModule,
    MatCheckboxModule,
    ChoiceCell,
    GetsSheet,
    GetsView,
    GivesKey,
    KeyOf,
    KnownAs,
    PastChoice,
    PortChoice,
    SaysWho,
    SeatBench,
    StartFrom,
    Stage,
    WalkTo,
    WalkTrace,
  ],
  template: `
    <il-stage heading="Bench" [note]="note()">
      <div actions class="choices" role="group" aria-label="What is shown">
        @for (each of views; track each.as) {
          <button type="button" [attr.aria-pressed]="view() === each.as" (click)="look(each.as)">
            {{ each.title }}
          </button>
        }
      </div>
      @if (view() === 'gets') {
        <il-gets-view [first]="who()" [(asked)]="asked" [(chosen)]="place" [(row)]="row" />
      } @else if (places().length === 0) {
        @if (store.site()) {
          <p class="calm soft">
            Nothing is here yet that a client could join: claim devices under Intake, and add an SSID under Wireless.
          </p>
        }
      } @else {
        <form class="cells" (ngSubmit)="walk()">
          @if (places().length > 1) {
            <il-choice-cell
              label="Probe"
              for="probe-place"
              [options]="places()"
              [value]="on()"
              (chosen)="chosenPlace.set($event)"
            />
          }
          @if (on() === 'port') {
            <il-port-choice [(chosen)]="plugged" />
            @if (plugged()?.asks) {
              <il-says-who for="probe" [value]="says()" (said)="says.set($event)" />
            }
            <il-known-as for="probe-mac" [mac]="mac()" (chosen)="mac.set($event)" />
            <il-walk-to [value]="to()" (typed)="to.set($event)" />
            <div class="cell act">
              @if (plugged()?.held) {
                <mat-checkbox name="let-in" [ngModel]="letIn()" (ngModelChange)="letIn.set($event)"
                  >Has signed in as a guest</mat-checkbox
                >
              }
              <button mat-flat-button type="submit" [disabled]="!probe() || walkTarget(to()) === null">
                {{ walked() ? 'Walk again' : 'Walk' }}
              </button>
            </div>
          } @else {
            <il-start-from [ssidId]="ssidId()" [apId]="apId()" [mac]="mac()" (chosen)="startFrom($event)" />
            <il-choice-cell
              label="Probe on SSID"
              for="probe-ssid"
              [options]="ssidOptions()"
              [value]="ssidId()"
              (chosen)="ssidId.set($event)"
            />
            <il-choice-cell
              label="Near access point"
              for="probe-ap"
              [options]="apOptions()"
              [value]="apId()"
              (chosen)="apId.set($event)"
            />
            <il-choice-cell
              label="On band"
              for="probe-band"
              [options]="bandOptions()"
              [value]="band()"
              (chosen)="band.set($event)"
            />
            @if (ring(); as of) {
              <il-key-of for="probe-key" [ssidId]="of" [keyId]="keyId()" (chosen)="keyId.set($event)" />
            }
            @if (keysAsked()) {
              <il-gives-key for="probe-gives" [value]="gives()" (given)="gives.set($event)" />
            }
            @if (enterprise()) {
              <il-says-who for="probe" [value]="says()" (said)="says.set($event)" />
            }
            <il-known-as for="probe-mac" [mac]="mac()" (chosen)="mac.set($event)" />
            <il-walk-to [value]="to()" (typed)="to.set($event)" />
            <div class="cell act">
              @if (asks()) {
                <mat-checkbox name="knows" [ngModel]="knows()" (ngModelChange)="knows.set($event)"
                  >Knows the passphrase</mat-checkbox
                >
              }
              @if (former()) {
                <mat-checkbox name="former" [ngModel]="before()" (ngModelChange)="before.set($event)"
                  >Knows the old one alone</mat-checkbox
                >
              }
              @if (held()) {
                <mat-checkbox name="let-in" [ngModel]="letIn()" (ngModelChange)="letIn.set($event)"
                  >Has signed in as a guest</mat-checkbox
                >
              }
              <mat-checkbox name="old" [ngModel]="old()" (ngModelChange)="old.set($event)"
                >Older than WPA3</mat-checkbox
              >
              <button mat-flat-button type="submit" [disabled]="!probe() || walkTarget(to()) === null">
                {{ walked() ? 'Walk again' : 'Walk' }}
              </button>
            </div>
          }
        </form>
        @if (walked()) {
          <p class="calm"><il-past-choice /></p>
          <div class="walks">
            <il-walk-trace
              heading="On the draft"
              [note]="draftNote()"
              [walk]="drafted.hasValue() ? drafted.value() : null"
              [problem]="failure()"
            />
            <il-walk-trace
              [heading]="past.then() === undefined ? 'On live' : 'On ' + past.words()"
              [note]="
                past.then() === undefined
                  ? 'What the devices acknowledged'
                  : 'What they were told then, on today’s cables'
              "
              [walk]="live.hasValue() ? live.value() : null"
              [problem]="failure()"
            />
          </div>
        } @else {
          <p class="calm soft">The walk shows every step a real client would take, and which object decided it.</p>
        }
      }
      @if (view() === 'walk' && session.mayChange() && store.devices().length > 0) {
        <il-seat-bench />
      }
      <ng-container ngProjectAs="[foot]">
        @if (view() === 'gets' && row() && asked()) {
          <il-gets-sheet [row]="row()!" [asked]="asked()!" (closed)="place.set(null)" />
        }
      </ng-container>
    </il-stage>
  `,
  providers: [PastStore, ProbesStore],
  styles: `
    .cells {
      border-top: 1px solid var(--rule);
      background: var(--sheet);
    }
    .act {
      flex: 1.4 1 330px;
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 4px 8px;
      white-space: nowrap;
    }
    .act button {
      margin-left: auto;
    }
    .calm {
      padding: 12px 14px;
    }
    .walks {
      display: grid;
      grid-template-columns: 1fr 1fr;
    }
    il-walk-trace + il-walk-trace {
      border-left: 1px solid var(--rule);
    }
    @media (max-width: 720px) {
      .walks {
        grid-template-columns: 1fr;
      }
      il-walk-trace + il-walk-trace {
        border-left: 0;
        border-top: 1px solid var(--ink);
      }
    }
  `,
})
export class BenchPage {
  private readonly http = inject(HttpClient);
  protected readonly store = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  protected readonly session = inject(SessionStore);
  protected readonly past = inject(PastStore);
  private readonly router = inject(Router);
  private readonly route = inject(ActivatedRoute);
  /** Which view, and who is asked about, from the address of the page. */
  readonly as = input<string>();
  readonly who = input<string>();
  protected readonly views = [
    { as: 'walk', title: 'As a client' },
    { as: 'gets', title: 'Who gets what' },
  ] as const;
  protected readonly view = computed(() => (this.as() === 'gets' ? 'gets' : 'walk'));
  protected readonly note = computed(() =>
    this.view() === 'gets'
      ? 'What one person or device would get, everywhere at this site.'
      : 'Put a pretend client on an SSID or at a port, and walk it to the internet, or to an address.',
  );
  protected readonly asked = signal<GetsAsked | null>(null);
  /** The place whose row is open, and what would be got there. */
  protected readonly place = signal<string | null>(null);
  protected readonly row = signal<GetsRow | null>(null);
  protected readonly walked = signal(false);
  private readonly again = signal(0);

  /** The port that a probe is plugged into. */
  protected readonly plugged = signal<ChosenPort | null>(null);
  protected readonly places = computed((): readonly Choice[] => [
    ...(this.store.ssids().length > 0 && this.aps().length > 0 ? [{ value: 'ssid', label: 'on an SSID' }] : []),
    ...(this.store.devices().length > 0 ? [{ value: 'port', label: 'at a port' }] : []),
  ]);
  /** Where somebody chose to put a probe; what is loaded one after the other chooses nothing. */
  protected readonly chosenPlace = signal<string | null>(null);
  /** Where a probe is put: as was chosen while that is possible, else the first that is. */
  protected readonly on = computed(
    () => (this.places().find(({ value }) => value === this.chosenPlace()) ?? this.places()[0])?.value,
  );
  protected readonly aps = computed(() => this.store.devices().filter((device) => device.kind === 'ap'));
  /** Choices stay while they are possible, and fall back to the first that is. */
  protected readonly ssidId = linkedSignal<readonly string[], string | undefined>({
    source: () => this.store.ssids().map((ssid) => ssid.id),
    computation: (ids, previous) => ids.find((id) => id === previous?.value) ?? ids[0],
  });
  protected readonly apId = linkedSignal<readonly string[], string | undefined>({
    source: () => this.aps().map((ap) => ap.id),
    computation: (ids, previous) => ids.find((id) => id === previous?.value) ?? ids[0],
  });
  protected readonly bands = computed(() => {
    const ap = this.aps().find((each) => each.id === this.apId());
    const sent = this.store.ssids().find((ssid) => ssid.id === this.ssidId())?.bands ?? [];
    return (ap ? (sheetOf(ap.model)?.radios ?? []) : [])
      .map((radio) => radio.band)
      .filter((band) => sent.includes(band));
  });
  protected readonly band = linkedSignal<readonly Band[], Band | undefined>({
    source: this.bands,
    computation: (bands, previous) =>
      bands.find((band) => band === previous?.value) ?? bands.find((band) => band === '5') ?? bands[0],
  });
  protected readonly ssidOptions = computed(() =>
    this.store.ssids().map(({ id, name }) => ({ value: id, label: name })),
  );
  protected readonly apOptions = computed(() =>
    this.aps().map(({ id, name, serial }) => ({ value: id, label: name ?? serial })),
  );
  protected readonly bandOptions = computed(() => this.bands().map((band) => ({ value: band, label: `${band} GHz` })));
  protected readonly knows = signal(true);
  protected readonly old = signal(false);
  protected readonly before = signal(false);
  /** Whether a portal holds clients of the SSID; and whether the probe is one that was let in. */
  protected readonly held = computed(() => {
    const ssid = this.store.ssids().find(({ id }) => id === this.ssidId());
    const asks = ssid && (ssid.byClass || asksWho(ssid.security) || ssid.keysAt === 'servers');
    return Boolean(ssid?.portal ?? (asks && this.shared.namesPortals()));
  });
  protected readonly letIn = signal(false);
  /** Whether the SSID has an old passphrase that may still be right. */
  protected readonly former = computed(() =>
    this.store.ssids().some(({ id, former }) => id === this.ssidId() && Boolean(former)),
  );
  /** Id of the SSID where it asks for keys of a ring. */
  protected readonly ring = computed(() => (this.keysAsked() ? undefined : this.chosenRing()?.id));
  private readonly chosenRing = computed(() => this.store.ssids().find(({ id, ring }) => id === this.ssidId() && ring));
  /** Whether servers name the keys of its ring; and the key that the probe gives then. */
  protected readonly keysAsked = computed(() => this.chosenRing()?.keysAt === 'servers');
  protected readonly gives = anewFor(
    () => this.ssidId(),
    () => '',
  );
  /** The same when it was walked last: a key that is half typed is not asked for. */
  private readonly walkedWith = signal('');
  private readonly security = computed(() => this.store.ssids().find(({ id }) => id === this.ssidId())?.security);
  /** Whether the SSID asks for a passphrase, or who somebody is. */
  protected readonly asks = computed(() => !this.chosenRing() && asksPassphrase(this.security() ?? 'open'));
  protected readonly enterprise = computed(() => !this.chosenRing() && asksWho(this.security() ?? 'open'));
  /** Who the probe says to be; null: it does not say. */
  protected readonly says = signal<Credentials | null>(null);
  /** The same when it was walked last: servers are asked when somebody presses for it, and not while a password is typed. */
  private readonly walkedAs = signal<Credentials | null>(null);
  /** Id of the key that the probe gives; empty: one that is in no ring. */
  protected readonly keyId = anewFor(this.ring, () => '');
  /** Whose MAC address the probe takes; empty: one that nobody knows. */
  protected readonly mac = signal('');
  /** Where it walks to, as it is typed; and as it was when it was walked last. */
  protected readonly to = signal('');
  private readonly walkedTo = signal('');
  protected readonly walkTarget = walkTarget;
  protected readonly probe = computed((): AnyProbe | null =>
    this.on() === 'port' ? this.portProbe() : this.airProbe(),
  );
  private readonly portProbe = computed((): PortProbe | null => {
    const [plugged, mac, entry] = [this.plugged(), this.mac(), this.walkedAs()];
    if (!plugged) return null;
    const { asks, held, ...at } = plugged;
    const says = { ...(asks && entry ? { entry } : {}), ...(held && this.letIn() ? { letIn: true } : {}) };
    return { ...at, ...says, ...(mac === '' ? {} : { mac }) };
  });
  private readonly airProbe = computed((): Probe | null => {
    const [ssidId, apId, band, mac] = [this.ssidId(), this.apId(), this.band(), this.mac()];
    if (!ssidId || !apId || !band) return null;
    const old = {
      ...(this.old() ? { old: true } : {}),
      ...(this.held() && this.letIn() ? { letIn: true } : {}),
      ...(this.former() && this.before() ? { former: true } : {}),
    };
    const entry = this.walkedAs();
    const key = {
      ...(this.ring() && this.keyId() ? { key: this.keyId() } : {}),
      ...(this.enterprise() && entry ? { entry } : {}),
      ...(this.keysAsked() && this.walkedWith().length >= LEAST_KEY ? { gives: this.walkedWith() } : {}),
    };
    return { ssidId, apId, band, knowsPassphrase: this.knows(), ...old, ...key, ...(mac === '' ? {} : { mac }) };
  });
  protected readonly draftNote = computed(() => {
    const edits = this.store.draft()?.edits ?? 0;
    return edits === 0 ? 'No edits: the same as live' : `${edits} ${edits === 1 ? 'edit' : 'edits'}`;
  });

  /** Walks again by itself whenever the draft moves. */
  private readonly draftRequest = computed(() => this.request('draft', this.store.draft()?.head), { equal: same });
  protected readonly drafted = resource({
    params: () => this.draftRequest(),
    loader: ({ params: { request } }) => this.ask(request),
  });
  /** Walks again when a device runs something else. */
  private readonly liveRequest = computed(
    () =>
      this.request(
        'live',
        this.store.devices().map(({ id, runs, state }) => `${id}${runs}${state}`),
      ),
    { equal: same },
  );
  protected readonly live = resource({
    params: () => this.liveRequest(),
    loader: ({ params: { request } }) => this.ask(request),
  });
  protected readonly failure = computed(() => this.drafted.error()?.message ?? this.live.error()?.message ?? '');

  protected look(view: 'walk' | 'gets'): void {
    const queryParams = { as: view === 'gets' ? view : null, who: null };
    void this.router.navigate([], { relativeTo: this.route, queryParams, queryParamsHandling: 'merge' });
  }

  protected startFrom({ ssidId, apId, mac }: Start): void {
    this.ssidId.set(ssidId);
    this.apId.set(apId);
    this.mac.set(mac);
  }

  protected walk(): void {
    this.walkedTo.set(walkTarget(this.to()) ?? '');
    this.walkedAs.set(this.says());
    this.walkedWith.set(this.gives());
    this.walked.set(true);
    this.again.update((count) => count + 1);
  }

  /** What to ask, and `basis`: what the answer depends on besides, so that a change of it asks again. */
  private request(on: 'draft' | 'live', basis: unknown): { request: WalkRequest; basis: unknown } | undefined {
    const [probe, siteId, draftId] = [this.probe(), this.store.siteId(), this.store.draft()?.id];
    if (!this.walked() || !probe || !siteId || !draftId) return undefined;
    const to = this.walkedTo() === '' ? {} : { to: this.walkedTo() };
    const then = this.past.then();
    const request =
      on === 'draft'
        ? { siteId, probe, on, draftId, ...to }
        : { siteId, probe, on, ...(then === undefined ? {} : { then }), ...to };
    // Who is asked for at servers is not asked for over and over: a wrong password would lock somebody out.
    return { request, basis: [probe.entry || 'gives' in probe ? null : basis, this.again()] };
  }

  private ask(request: WalkRequest): Promise<WalkResult> {
    return firstValueFrom(this.http.post<WalkResult>('/api/walks', request));
  }
}

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);
