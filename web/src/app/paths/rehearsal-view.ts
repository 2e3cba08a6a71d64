import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, input, signal, untracked } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { FAILS_AT, failuresOf, rehearsedGateway, type Failure } from '@iron-lattice/core/assess';
import { LONGEST_DRILL } from '@iron-lattice/core/line';
import {
  DRILL_AFTER,
  MISHAPS,
  rehearse,
  type DrillForecast,
  type DrillView,
  type Mishap,
  type Rehearsed,
} from '@iron-lattice/core/paths';
import { firstValueFrom } from 'rxjs';
import { SessionStore } from '../session/session-store';
import { attempt, type Problem } from '../session/problem';
import { liveFetch } from '../shell/live-fetch';
import { SiteStore } from '../shell/site-store';
import { anewFor } from '../ui/anew-for';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { counted } from '../ui/counted';
import { TextCell } from '../ui/text-cell';
import { AMOUNT_WORDS, MISHAP_WORDS, newMishap, readMishap, type MishapText } from './mishap-text';
import { titleOf, type GatewayRow } from './path-rows';
import { TimelineDrawing } from './timeline-drawing';
import { secondsWords } from './watch-curve';

const MOST_MISHAPS = 8;

/** What becomes of a site when its uplinks fail: every single failure, and a timeline of one’s own that can really be played. */
@Component({
  selector: 'il-rehearsal-view',
  imports: [MatButtonModule, ChoiceCell, TextCell, TimelineDrawing],
  template: `
    <section>
      <h3>When any one uplink fails</h3>
      <table>
        <thead>
          <tr>
            <th>Uplink</th>
            <th>What happens</th>
            <th>Nobody is served for</th>
            <th>Some are not for</th>
            <th>Then it leaves by</th>
            <th>Sessions that break</th>
          </tr>
        </thead>
        <tbody>
          @for (line of failures(); track line.key) {
            <tr>
              <td class="mono">{{ line.title }}</td>
              <td>{{ line.what }}</td>
              <td [class.bad]="line.dark">{{ line.darkWords }}</td>
              <td>{{ line.someWords }}</td>
              <td>{{ line.then }}</td>
              <td>{{ line.broken }}</td>
            </tr>
          } @empty {
            <tr>
              <td colspan="6" class="soft">
                No uplink leads anywhere yet: as soon as one does, its failures stand here.
              </td>
            </tr>
          }
        </tbody>
      </table>
    </section>
    <section>
      <h3>A rehearsal of {{ gateway().device.name }}, as the draft has it</h3>
      @for (one of mishaps(); track $index; let i = $index) {
        <div class="cells mishap">
          <il-choice-cell
            label="Uplink"
            [for]="'mishap-port-' + i"
            [options]="ports()"
            [value]="one.port"
            (chosen)="put(i, { port: $event })"
          />
          <il-choice-cell
            label="What happens"
            [for]="'mishap-what-' + i"
            [options]="whats"
            [value]="one.what"
            (chosen)="put(i, { what: $event })"
          />
          <il-text-cell
            label="From, s"
            [for]="'mishap-from-' + i"
            [mono]="true"
            [value]="one.from"
            (typed)="put(i, { from: $event })"
          />
          <il-text-cell
            label="To, s"
            [for]="'mishap-to-' + i"
            [mono]="true"
            [flaw]="flaws()[i]"
            [value]="one.to"
            (typed)="put(i, { to: $event })"
          />
          @if (amountOf(one); as amount) {
            <il-text-cell
              [label]="amount"
              [for]="'mishap-amount-' + i"
              [mono]="true"
              [value]="one.amount"
              (typed)="put(i, { amount: $event })"
            />
          }
          @if (one.what === 'target') {
            <il-text-cell
              label="Which target"
              [for]="'mishap-target-' + i"
              [mono]="true"
              example="gateway"
              [value]="one.target"
              (typed)="put(i, { target: $event })"
            />
          }
          <div class="cell">
            <button mat-button type="button" [attr.aria-label]="'Take mishap ' + (i + 1) + ' away'" (click)="take(i)">
              Take away
            </button>
          </div>
        </div>
      }
      <p class="does">
        @if (mishaps().length < most) {
          <button mat-stroked-button type="button" [disabled]="ports().length === 0" (click)="add()">
            Add a mishap
          </button>
        }
        @if (session.mayChange() && read().length > 0 && !asking()) {
          <button mat-flat-button type="button" [disabled]="busy()" (click)="ask()">Play it live …</button>
        }
      </p>
      @if (asking()) {
        <p class="ask" role="alert">
          {{ askWords() }}
          <button mat-flat-button type="button" [disabled]="busy()" (click)="play()">
            Play it at {{ gateway().device.name }}
          </button>
          <button mat-button type="button" (click)="asking.set(null)">Not now</button>
        </p>
      }
      @if (problem(); as wrong) {
        <p class="flaw" role="alert">{{ wrong.message }}</p>
      }
      @if (read().length > 0) {
        <p class="sum">{{ sum() }}</p>
        <il-timeline-drawing [ports]="lanes()" [made]="made()" [mishaps]="read()" />
      } @else {
        <p class="soft sum">
          Say what happens to which uplink and when: what becomes of it is drawn here, second by second.
        </p>
      }
    </section>
    @for (drill of drills(); track drill.id) {
      <section>
        <h3>Played {{ time()(atOf(drill)) }} by {{ drill.by }}</h3>
        <p class="sum">{{ drillWords(drill) }}</p>
        <il-timeline-drawing
          [ports]="lanes()"
          [made]="drill.predicted"
          [mishaps]="drill.mishaps"
          [real]="{ changes: drill.changes, at: atOf(drill), now: now() }"
        />
      </section>
    }
  `,
  styles: `
    :host {
      display: block;
      height: 100%;
      overflow: auto;
      border-top: 1px solid var(--ink);
    }
    section {
      border-bottom: 1px solid var(--ink);
      padding-bottom: 10px;
    }
    h3 {
      font-size: 13px;
      font-weight: 600;
      line-height: 18px;
      margin: 10px 14px 6px;
    }
    table {
      border-collapse: collapse;
      width: calc(100% - 28px);
      margin: 0 14px;
    }
    th,
    td {
      text-align: left;
      padding: 4px 10px 4px 0;
      border-top: 1px solid var(--rule);
      font-weight: 400;
    }
    th {
      color: var(--soft);
      font-size: 12px;
      border-top: none;
    }
    .bad {
      color: var(--bad);
    }
    .mishap {
      border-top: 1px solid var(--rule);
    }
    .mishap .cell button {
      margin-top: 16px;
    }
    .does,
    .sum,
    .ask,
    .flaw {
      margin: 8px 14px;
      display: flex;
      gap: 10px;
      align-items: center;
      flex-wrap: wrap;
    }
    .ask {
      padding: 8px 10px;
      border: 1px solid var(--caution);
    }
    @media (max-width: 720px) {
      table {
        display: block;
        overflow-x: auto;
      }
    }
  `,
})
export class RehearsalView {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly gateway = input.required<GatewayRow>();
  readonly time = input.required<(ms: number) => string>();
  /** In milliseconds since 1970. */
  readonly now = input.required<number>();
  protected readonly most = MOST_MISHAPS;
  protected readonly whats: readonly Choice[] = MISHAPS.map((value) => ({ value, label: MISHAP_WORDS[value] }));
  /** What playing it would come to, once somebody is about to. */
  protected readonly asking = signal<DrillForecast | null>(null);
  protected readonly busy = signal(false);
  protected readonly problem = signal<Problem | null>(null);
  private readonly played = liveFetch({
    of: () => this.store.siteId() ?? undefined,
    fetch: (id) => firstValueFrom(this.http.get<DrillView[]>(`/api/sites/${id}/drills`)),
    when: (event) => event.type === 'paths' && event.siteId === this.store.siteId(),
  });
  protected readonly drills = computed(() =>
    (this.played.value() ?? []).filter(({ deviceId }) => deviceId === this.gateway().device.id).slice(0, 3),
  );
  private readonly rehearsed = computed(() => {
    const { device, fact } = this.gateway();
    return rehearsedGateway(this.store.site() ?? {}, device, fact);
  });
  protected readonly lanes = computed(() =>
    this.gateway().uplinks.map((row) => ({ port: row.port, title: titleOf(row) })),
  );
  protected readonly ports = computed((): Choice[] =>
    this.lanes().map(({ port, title }) => ({ value: port, label: title })),
  );
  protected readonly mishaps = anewFor<readonly MishapText[]>(
    () => this.gateway().device.id,
    () => {
      const { uplinks } = untracked(this.gateway);
      const first = uplinks.find(({ fact }) => fact?.used) ?? uplinks[0];
      return first ? [newMishap(first.port)] : [];
    },
  );
  private readonly checked = computed(() =>
    this.mishaps().map((text) => readMishap(text, this.gateway().device.id, LONGEST_DRILL)),
  );
  protected readonly flaws = computed(() => this.checked().map((each) => ('flaw' in each ? each.flaw : '')));
  protected readonly read = computed((): Mishap[] =>
    this.checked().flatMap((each) => ('mishap' in each ? [each.mishap] : [])),
  );
  protected readonly made = computed(() => {
    const end = Math.max(...this.read().map(({ to }) => to ?? 0));
    return rehearse(this.rehearsed(), this.read(), end + DRILL_AFTER);
  });
  protected readonly sum = computed(() => {
    const end = Math.max(...this.read().map(({ to }) => to ?? 0)) + DRILL_AFTER;
    return sumWords(this.made(), rehearse(this.rehearsed(), this.read(), end, 'worst'));
  });
  protected readonly failures = computed(() => {
    const titles = new Map(this.lanes().map(({ port, title }) => [port, title]));
    return failuresOf(this.rehearsed()).map((failure) => lineOf(failure, titles));
  });
  protected readonly askWords = computed(() => {
    const asked = this.asking();
    if (!asked) return '';
    const clients = this.store.devices().reduce((sum, { clients: there }) => sum + there.length, 0);
    const seconds = Math.max(...this.read().map(({ to }) => to ?? 0));
    const { name } = this.gateway().device;
    return `This is real: within the next ${secondsWords(seconds)} ${name} does without what is said above, as it runs now, and ends that by itself. ${counted(clients, 'client')} of this site ${clients === 1 ? 'is' : 'are'} on the air. ${sumWords(asked.mean, asked.worst)}`;
  });

  protected amountOf = ({ what }: MishapText): string => AMOUNT_WORDS[what];
  protected atOf = ({ at }: DrillView): number => Date.parse(at);

  protected put(at: number, change: Partial<MishapText>): void {
    this.asking.set(null);
    this.mishaps.update((all) => all.map((one, i) => (i === at ? { ...one, ...change } : one)));
  }

  protected add(): void {
    this.asking.set(null);
    const port = this.lanes()[0]?.port;
    if (port !== undefined) this.mishaps.update((all) => [...all, newMishap(port)]);
  }

  protected take(at: number): void {
    this.asking.set(null);
    this.mishaps.update((all) => all.filter((_, i) => i !== at));
  }

  protected async ask(): Promise<void> {
    const { id } = this.gateway().device;
    await attempt(this.busy, this.problem, async () => {
      const body = { mishaps: this.asked() };
      this.asking.set(await firstValueFrom(this.http.post<DrillForecast>(`/api/devices/${id}/drill-forecasts`, body)));
    });
  }

  protected async play(): Promise<void> {
    const { id } = this.gateway().device;
    const mishaps = this.asked();
    const done = await attempt(this.busy, this.problem, async () => {
      await firstValueFrom(this.http.post(`/api/devices/${id}/drills`, { mishaps }));
      await this.played.again();
    });
    if (done) this.asking.set(null);
  }

  private asked = () => this.read().map(({ gatewayId: _of, ...mishap }) => mishap);

  /** When what was computed was really noticed. */
  protected drillWords(drill: DrillView): string {
    const titles = new Map(this.lanes().map(({ port, title }) => [port, title]));
    const began = Date.parse(drill.at);
    const lines = drill.predicted.noticed.map(({ at, port, what }) => {
      const real = drill.changes.find(
        (each) =>
          each.port === port && each.what === what && Math.abs((Date.parse(each.at) - began) / 1000 - at) < NEAR_S,
      );
      const words = `${titles.get(port) ?? port} ${what === 'gone' ? 'gone' : 'back'}: computed at ${secondsWords(at)}`;
      const passed = (this.now() - began) / 1000 > at + NEAR_S;
      const really = real
        ? `, really at ${secondsWords((Date.parse(real.at) - began) / 1000)}`
        : passed
          ? ', not told'
          : ', to come';
      return words + really;
    });
    return lines.join(' · ') || 'Nothing was to be noticed.';
  }
}

/** How far apart what was computed and what happened may be to be taken for the same, in seconds. */
const NEAR_S = 60;

/** What a rehearsal comes to. */
function sumWords({ dark, outage, longest, broken }: Rehearsed, worst: Rehearsed): string {
  if (outage === 0) return `Everybody is served all the time; ${percent(broken)} of the sessions break.`;
  const none = dark > 0 ? `Nobody is served for ${secondsWords(dark)}` : 'Somebody is always served';
  return `${none}; some are not for ${secondsWords(outage)}, at most ${secondsWords(longest)} at a stretch (at worst ${secondsWords(worst.longest)}). ${percent(broken)} of the sessions break.`;
}

const percent = (share: number): string => `${Math.round(share * 100)} %`;

function lineOf({ ports, what, mean, worst }: Failure, titles: ReadonlyMap<string, string>) {
  const after = worst.spans.find(
    ({ to, used }) => to > FAILS_AT && used.every(({ port }) => !ports.includes(port)) && used.length > 0,
  );
  const range = (of: 'dark' | 'longest'): string =>
    worst[of] === 0 ? 'not at all' : `${secondsWords(mean[of])}, at worst ${secondsWords(worst[of])}`;
  return {
    key: `${ports.join()} ${what}`,
    title: ports.map((port) => titles.get(port) ?? port).join(' and '),
    what: MISHAP_WORDS[what],
    dark: worst.dark > 0,
    darkWords: after ? range('dark') : 'as long as it lasts',
    someWords: after ? range('longest') : 'as long as it lasts',
    then: after
      ? after.used.map(({ port, share }) => `${titles.get(port) ?? port} ${percent(share)}`).join(', ')
      : 'nothing',
    broken: percent(Math.min(1, worst.broken)),
  };
}
