import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import type { GetsReach, GetsRow, GetsTried, GetsTry } from '@iron-lattice/core/bench';
import { asksWho } from '@iron-lattice/core/document';
import { parseMac } from '@iron-lattice/core/address';
import type { Credentials } from '@iron-lattice/core/radius';
import { firstValueFrom } from 'rxjs';
import { attempt, type Problem } from '../session/problem';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { anewFor } from '../ui/anew-for';
import { Cell } from '../ui/cell';
import { counted } from '../ui/counted';
import { PacketList } from '../ui/packet-list';
import { Sheet } from '../ui/sheet';
import type { GetsAsked } from './gets-view';
import { keyOfPlace, spanWords, placeWords, rateWords } from './gets-words';
import { SaysWho } from './says-who';

/** What somebody would get at one place and why; and what really comes of it. */
@Component({
  selector: 'il-gets-sheet',
  imports: [FormsModule, MatButtonModule, Cell, PacketList, SaysWho, Sheet],
  template: `
    <il-sheet [heading]="asked().who + ' at ' + placeWords(row())" [note]="row().how" (closed)="closed.emit()">
      <div class="cells">
        @if (session.mayChange() && tries()) {
          <form class="cell full try" aria-label="Try it live" (ngSubmit)="try()">
            @if (byMethod()) {
              <il-says-who for="gets" [value]="says()" (said)="says.set($event)" />
            }
            <div class="cell" [class.go]="byMethod()">
              <button mat-stroked-button type="submit" [disabled]="busy() || (byMethod() && says() === null)">
                {{ busy() ? 'Asking…' : 'Try it live' }}
              </button>
            </div>
          </form>
          @if (problem(); as problem) {
            <p class="cell full flaw" role="alert">{{ problem.message }}</p>
          }
          @if (tried(); as tried) {
            <div class="cell full" role="status">
              @if (tried.differs.length > 0) {
                @for (each of tried.differs; track $index) {
                  <p class="flaw">{{ each }}</p>
                }
              } @else {
                <p class="good">As it was computed: {{ triedWords(tried) }}</p>
              }
              @for (one of tried.asked; track $index) {
                <details>
                  <summary>
                    {{ tried.device }} asked {{ one.server }}: {{ counted(one.exchange.packets.length, 'packet') }} in
                    {{ one.exchange.ms }} ms
                  </summary>
                  <il-packet-list [packets]="one.exchange.packets" [server]="one.server" />
                </details>
              } @empty {
                <p class="soft">{{ tried.device }} asks nobody there.</p>
              }
            </div>
          }
        }
        <il-cell label="They get" [hint]="row().segment?.subnet ?? ''">
          <div class="value">
            @if (row().segment; as segment) {
              {{ row().accessClass?.name ?? 'No class' }}, in {{ segment.name }}
              <span class="mono soft">{{ segment.vlan }}</span>
            } @else {
              <span class="flaw">{{ row().stops }}</span>
            }
          </div>
        </il-cell>
        @if (row().segment; as segment) {
          <il-cell label="Their address" hint="Out of what is given there">
            <div class="value mono">{{ segment.range ?? 'nobody gives any' }}</div>
          </il-cell>
          <il-cell label="Mb/s down" [hint]="row().down.by">
            <div class="value mono">{{ rateWords(row().down) }}</div>
          </il-cell>
          <il-cell label="Mb/s up" [hint]="row().up.by">
            <div class="value mono">{{ rateWords(row().up) }}</div>
          </il-cell>
          @if (row().session !== null || row().idle !== null) {
            <il-cell label="Sent away">
              <div class="value">{{ timesWords() }}</div>
            </il-cell>
          }
        }
        <il-cell label="Why" size="wide">
          <ol>
            @for (each of row().because; track $index) {
              <li>{{ each }}</li>
            } @empty {
              <li>{{ row().stops ?? row().how }}</li>
            }
          </ol>
          @for (each of row().attributes; track $index) {
            <p class="mono soft">{{ each.name }} = {{ each.value }}</p>
          }
        </il-cell>
        @if (row().reach.length > 0) {
          <il-cell label="They reach" size="wide">
            <ul>
              @for (group of reached(); track group.title) {
                <li>
                  <b>{{ group.title }}</b> {{ group.names }}
                </li>
              }
            </ul>
          </il-cell>
          <il-cell
            label="By the rules"
            size="wide"
            [hint]="
              row().rules.length === 0
                ? 'What no rule says is stopped'
                : 'Under Rules each stands with what it lets through'
            "
          >
            <div class="value">{{ ruleNames() }}</div>
          </il-cell>
        }
      </div>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    ol,
    ul {
      margin: 0;
      padding: 0;
      list-style: none;
    }
    p {
      margin: 0;
    }
    .try {
      display: flex;
      flex-wrap: wrap;
      padding: 0;
    }
    .go {
      padding-top: 25px;
    }
    summary {
      cursor: pointer;
    }
    .good {
      color: var(--good);
    }
  `,
})
export class GetsSheet {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly row = input.required<GetsRow>();
  readonly asked = input.required<GetsAsked>();
  readonly closed = output<void>();
  protected readonly busy = signal(false);
  private readonly about = computed(() => JSON.stringify([keyOfPlace(this.row()), this.asked()]));
  protected readonly problem = anewFor<Problem | null>(this.about, () => null);
  /** What came of trying it, as long as it is asked about the same. */
  protected readonly tried = anewFor<GetsTried | null>(this.about, () => null);
  /** How they prove who they are. */
  protected readonly says = anewFor<Credentials | null>(
    () => this.asked().who,
    () => (this.isMac() ? null : { method: 'eap-ttls', user: this.asked().who, password: '' }),
  );
  protected readonly placeWords = placeWords;
  protected readonly rateWords = rateWords;
  protected readonly counted = counted;
  private readonly isMac = computed(() => parseMac(this.asked().who) !== null);
  /** Whether they are asked who they are there, by a method of their own. */
  protected readonly byMethod = computed(() => {
    const { place } = this.row();
    return !this.isMac() && (place.kind === 'ssid' ? asksWho(place.security) : place.asks !== 'mac');
  });
  /** Whether there is anything to try: of a passphrase nobody is asked. */
  protected readonly tries = computed(() => this.byMethod() || this.isMac());
  protected readonly reached = computed(() => {
    const names = (how: GetsReach['reach']): string =>
      this.row()
        .reach.filter(({ reach }) => reach === how)
        .map(({ to }) => to)
        .join(', ');
    return [
      { title: 'All of', names: names('all') },
      { title: 'Some of', names: names('some') },
      { title: 'Nothing of', names: names('none') },
    ].filter(({ names: told }) => told !== '');
  });
  protected readonly ruleNames = computed(
    () =>
      this.row()
        .rules.map(({ name }) => name)
        .join(', ') || 'No rule names what they send.',
  );
  protected readonly timesWords = computed(() => {
    const { session, idle } = this.row();
    return [
      ...(session === null ? [] : [`after ${spanWords(session)}`]),
      ...(idle === null ? [] : [`after ${spanWords(idle)} without a word`]),
    ].join(', and ');
  });

  protected triedWords({ accessClass, segment, stops }: GetsTried): string {
    return stops ?? `${accessClass === null ? 'no class' : `class ${accessClass}`}, in ${segment}.`;
  }

  protected async try(): Promise<void> {
    const [draft, siteId, { place }] = [this.store.draft(), this.store.siteId(), this.row()];
    if (!draft || !siteId || this.busy()) return;
    const at =
      place.kind === 'ssid' ? { ssidId: place.id } : { deviceId: place.ports[0]!.deviceId, port: place.ports[0]!.port };
    const request: GetsTry = { siteId, ...this.asked(), place: at, entry: this.byMethod() ? this.says() : null };
    this.tried.set(null);
    await attempt(this.busy, this.problem, async () => {
      this.tried.set(await firstValueFrom(this.http.post<GetsTried>(`/api/drafts/${draft.id}/gets/try`, request)));
    });
  }
}
