import { Component, computed, inject, resource, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { partQuestion, type Question } from '@iron-lattice/core/assess';
import { PastChoice } from '../shell/past-choice';
import { PastStore } from '../shell/past-store';
import { SiteStore } from '../shell/site-store';
import { TrafficTokens } from '../shell/traffic-tokens';
import { TokenField } from '../ui/token-field';
import { RulesApi, type On } from './rules-api';
import { TrafficTable } from './traffic-table';

/** A question as people ask it, answered for every packet it is about, and for one of them there and back. */
@Component({
  selector: 'il-ask-bar',
  imports: [PastChoice, MatButtonModule, TokenField, TrafficTable],
  template: `
    <form (submit)="ask($event)" (keydown.escape)="clear(); $event.preventDefault()">
      <il-token-field
        class="from"
        label="Ask who reaches whom"
        for="ask-from"
        placeholder="Can Crew reach 10.20.1.7 on TCP 443?"
        [value]="from()"
        [source]="tokens.ends()"
        [takes]="sentence"
        (typed)="from.set($event)"
        (done)="ask()"
      />
      <span class="soft" aria-hidden="true">→</span>
      <il-token-field
        class="to"
        label="What they want to reach"
        for="ask-to"
        placeholder="to…"
        [value]="to()"
        [source]="tokens.ends()"
        (typed)="to.set($event)"
        (done)="ask()"
      />
      <il-token-field
        label="On which services"
        for="ask-services"
        placeholder="any service"
        [value]="services()"
        [source]="tokens.services()"
        (typed)="services.set($event)"
        (done)="ask()"
      />
      <button mat-stroked-button type="submit">Ask</button>
    </form>
    @if (asked(); as question) {
      <section aria-label="Answer" aria-live="polite">
        <header>
          <div class="choices" role="group" aria-label="Asked of">
            <button type="button" [attr.aria-pressed]="on() === 'draft'" (click)="on.set('draft')">The draft</button>
            <button type="button" [attr.aria-pressed]="on() === 'live'" (click)="on.set('live')">
              {{ liveWords() }}
            </button>
          </div>
          @if (on() === 'live') {
            <il-past-choice />
          }
          <span class="soft understood">{{
            understood() ?? question.from + ' → ' + question.to + ', ' + question.services
          }}</span>
          <span class="grow"></span>
          <button mat-button type="button" (click)="clear()">Close</button>
        </header>
        @if (answer.hasValue()) {
          @let got = answer.value();
          @if ('flaws' in got) {
            @for (flaw of got.flaws; track $index) {
              <p class="flaw" role="alert">{{ flaw.message }}</p>
            }
          } @else {
            @for (each of got.lookedUp; track each.name) {
              <p class="soft">
                {{ each.name }} is <span class="mono">{{ each.addresses.join(', ') }}</span>, as the controller’s name
                servers say; those of a client may say otherwise.
              </p>
            }
            <p class="verdict" [class.good]="got.reach === 'all'" [class.bad]="got.reach === 'none'">
              {{ words() }}
            </p>
            @if (got.packet) {
              <ol>
                @for (step of got.there; track $index) {
                  <li [class.stopped]="!step.passed">
                    <b>{{ step.at }}: {{ step.title }}</b
                    >&ngsp;<span class="mono soft">{{ got.packet }}</span>
                    <p>{{ step.detail }}</p>
                  </li>
                }
                @for (step of got.back; track $index) {
                  <li [class.stopped]="!step.passed">
                    <b>{{ step.at }}, back: {{ step.title }}</b>
                    <p>{{ step.detail }}</p>
                  </li>
                }
              </ol>
            }
            <il-traffic-table [cell]="got" />
          }
        } @else if (answer.error()) {
          <p class="flaw" role="alert">{{ answer.error()!.message }}</p>
        } @else {
          <p class="soft">Asking…</p>
        }
      </section>
    }
    @if (unclear()) {
      <p class="flaw wide" role="alert">
        Name both ends, such as “Can Crew reach 10.20.1.7 on TCP 443?”, “crew to ticketing 9100”, “may crew ping the
        gateway” or “crew → 10.20.1.7 ssh”.
      </p>
    }
  `,
  styles: `
    form {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 6px 8px;
      padding: 2px 14px 8px;
    }
    il-token-field {
      flex: 1 1 130px;
    }
    .from {
      flex: 2 1 260px;
    }
    .to {
      flex: 1.5 1 150px;
    }
    @media (max-width: 720px) {
      il-token-field {
        flex: 1 1 100%;
      }
      form > span {
        display: none;
      }
    }
    section {
      border: 1px solid var(--ink);
      border-width: 2px 0 1px;
      background: var(--sheet);
      padding: 4px 14px 10px;
      margin-bottom: 8px;
    }
    header {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 10px;
    }
    .choices {
      flex: none;
    }
    .verdict {
      font:
        600 15px/24px 'Barlow Semi Condensed',
        Barlow;
    }
    ol {
      list-style: none;
      margin: 4px 0 8px;
      padding: 0;
    }
    li {
      border-left: 3px solid var(--good);
      padding: 0 0 4px 10px;
    }
    li.stopped {
      border-left: 3px dotted var(--bad);
    }
    .wide {
      padding: 0 14px 8px;
    }
  `,
})
export class AskBar {
  private readonly api = inject(RulesApi);
  private readonly store = inject(SiteStore);
  protected readonly tokens = inject(TrafficTokens);
  protected readonly from = signal('');
  protected readonly to = signal('');
  protected readonly services = signal('');
  protected readonly asked = signal<Question | null>(null);
  protected readonly on = signal<On>('draft');
  protected readonly unclear = signal(false);
  protected readonly past = inject(PastStore);
  protected readonly liveWords = computed(() => {
    const words = this.past.words();
    return words.charAt(0).toUpperCase() + words.slice(1);
  });
  protected readonly answer = resource({
    params: () => {
      const [question, draft] = [this.asked(), this.store.draft()];
      return question && draft
        ? { question, on: this.on(), then: this.past.then(), basis: `${draft.id} ${draft.head}` }
        : undefined;
    },
    loader: ({ params }) => this.api.ask(params.question, params.on, params.then),
  });
  protected readonly understood = computed(() => {
    const got = this.answer.hasValue() ? this.answer.value() : null;
    return got && !('flaws' in got) ? got.understood : null;
  });
  protected readonly words = computed(() => {
    const got = this.answer.hasValue() ? this.answer.value() : null;
    if (!got || 'flaws' in got) return '';
    if (got.reach === 'all') return 'Yes, all of it.';
    return got.reach === 'none' ? 'No, none of it.' : 'Some of it.';
  });

  /** A whole question, as people write it, is parted into the three. */
  protected readonly sentence = (text: string): boolean => {
    const question = partQuestion(text, this.tokens.known(), this.tokens.sites());
    if (!question) return false;
    this.from.set(question.from);
    this.to.set(question.to);
    this.services.set(question.services === 'any' ? '' : question.services);
    this.ask();
    return true;
  };

  protected ask(event?: Event): void {
    event?.preventDefault();
    const [from, to, services] = [this.from().trim(), this.to().trim(), this.services().trim() || 'any'];
    this.unclear.set(from === '' || to === '');
    this.asked.set(from === '' || to === '' ? null : { from, to, services });
  }

  protected clear(): void {
    this.from.set('');
    this.to.set('');
    this.services.set('');
    this.asked.set(null);
    this.unclear.set(false);
  }
}
