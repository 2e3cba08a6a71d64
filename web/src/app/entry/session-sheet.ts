import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { SessionChanged } from '@iron-lattice/core/entry';
import { firstValueFrom } from 'rxjs';
import { attempt, type Problem } from '../session/problem';
import { SessionStore } from '../session/session-store';
import { SiteClients } from '../shell/site-clients';
import { SiteStore } from '../shell/site-store';
import { anewFor } from '../ui/anew-for';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { PacketList } from '../ui/packet-list';
import { Sheet } from '../ui/sheet';
import { placeOf, sessionsOf } from './session-words';
import { octetsWords } from '../ui/octets-words';
import { TakenStore } from './taken-store';

/** One who is here: who that is and how it is known, what it got, and a way to end it. */
@Component({
  selector: 'il-session-sheet',
  imports: [MatButtonModule, Cell, ChoiceCell, PacketList, Sheet],
  template: `
    @if (session(); as of) {
      <il-sheet [heading]="of.who" [note]="placeOf(of.client)" (closed)="closed.emit()">
        @if (people.mayChange()) {
          <button actions mat-stroked-button type="button" [disabled]="busy()" (click)="change(null)">End it</button>
        }
        <div class="cells">
          <il-cell label="Known by" [hint]="of.server === '' ? '' : 'Said by ' + of.server">
            <div class="value">{{ of.how }}</div>
          </il-cell>
          <il-cell label="Class" [hint]="of.className === '' ? 'None was named' : ''">
            <div class="value">{{ of.className || 'none' }}</div>
          </il-cell>
          <il-cell label="Segment" [hint]="of.client.tagged ? 'Its frames carry the tag' : ''">
            <div class="value">
              {{ segment() }} <span class="mono soft">{{ of.client.vlan }}</span>
            </div>
          </il-cell>
          <il-cell label="Address">
            <div class="value mono">{{ of.client.address ?? 'none yet' }}</div>
          </il-cell>
          <il-cell label="MAC address">
            <div class="value mono">{{ of.client.mac }}</div>
          </il-cell>
          <il-cell label="Down" hint="Octets to it since it came">
            <div class="value mono">{{ took('down') }}</div>
          </il-cell>
          <il-cell label="Up" hint="Octets from it">
            <div class="value mono">{{ took('up') }}</div>
          </il-cell>
          @if (people.mayChange() && of.server !== '' && classes().length > 0) {
            <il-choice-cell
              label="Another class"
              for="session-class"
              hint="As its server may say at any time; holds until it is asked for anew"
              [options]="classes()"
              [value]="wanted()"
              (chosen)="wanted.set($event)"
            />
            <div class="cell go">
              <button
                mat-stroked-button
                type="button"
                [disabled]="busy() || wanted() === null"
                (click)="change(wanted())"
              >
                Give it that class
              </button>
            </div>
          }
          @if (answer(); as answer) {
            <div class="cell full" role="status">
              <p [class.good]="answer.ok" [class.flaw]="!answer.ok">{{ answerWords(answer) }}</p>
              @if (answer.packets.length > 0) {
                <details>
                  <summary>What went to its device and came back</summary>
                  <il-packet-list [packets]="answer.packets" server="its device" />
                </details>
              }
            </div>
          }
          <p class="cell full soft">
            Ending it sends the client away from its SSID, or has its port ask anew who it is: whoever is known may come
            back at once. To keep somebody out, take the user or the class away, or the client off its server.
          </p>
          @if (problem(); as problem) {
            <p class="cell full flaw" role="alert">{{ problem.message }}</p>
          }
        </div>
      </il-sheet>
    }
  `,
  styles: `
    :host {
      display: contents;
    }
    .go {
      padding-top: 25px;
    }
    .good {
      color: var(--good);
    }
    summary {
      cursor: pointer;
    }
  `,
})
export class SessionSheet {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  private readonly clients = inject(SiteClients);
  private readonly taken = inject(TakenStore);
  protected readonly people = inject(SessionStore);
  /** MAC address of the client; null: none is open. */
  readonly mac = input.required<string | null>();
  readonly closed = output<void>();
  protected readonly busy = signal(false);
  protected readonly problem = signal<Problem | null>(null);
  protected readonly placeOf = placeOf;
  protected readonly session = computed(() =>
    sessionsOf(this.clients.clients() ?? [], this.store.accessClasses()).find(
      ({ client }) => client.mac === this.mac(),
    ),
  );
  protected readonly segment = computed(() => {
    const client = this.session()?.client;
    return client ? this.store.segmentName(client) : '';
  });

  /** The classes it does not have. */
  protected readonly classes = computed((): Choice[] =>
    this.store
      .accessClasses()
      .filter(({ name }) => name !== this.session()?.className)
      .map(({ id, name }) => ({ value: id, label: name })),
  );
  /** Id of the class that is chosen, and what came of the last change: of the session that is open. */
  protected readonly wanted = anewFor<string | null>(this.mac, () => null);
  protected readonly answer = anewFor<SessionChanged | null>(this.mac, () => null);

  protected took(way: 'down' | 'up'): string {
    const client = this.session()?.client;
    const taken = client && this.taken.of(client);
    return taken ? octetsWords(taken[way]) : 'not told yet';
  }

  protected answerWords({ ok, words, server }: SessionChanged): string {
    const by = server === null ? '' : `, as ${server} would have it`;
    return ok ? `Done${by}.` : `Not done${by}: ${words}`;
  }

  /** @param classId null: it is to end. */
  protected async change(classId: string | null): Promise<void> {
    const session = this.session();
    if (!session?.client.at) return;
    const { mac, at } = session.client;
    this.answer.set(null);
    const done = await attempt(this.busy, this.problem, async () => {
      const url = `/api/devices/${at.deviceId}/session-changes`;
      this.answer.set(await firstValueFrom(this.http.post<SessionChanged>(url, { mac, classId })));
    });
    if (!done || !this.answer()?.ok) return;
    this.wanted.set(null);
    this.store.say(
      classId === null
        ? `The session of ${session.who} was ended. It may come back by itself.`
        : `${session.who} has another class until it is asked for anew.`,
    );
  }
}
