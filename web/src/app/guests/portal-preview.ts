import { Component, computed, inject, input, signal } from '@angular/core';
import { MatSelectModule } from '@angular/material/select';
import { DomSanitizer, type SafeHtml } from '@angular/platform-browser';
import {
  askedPage,
  closedPage,
  askPage,
  confirmPage,
  CODE_MINUTES,
  documentOf,
  donePage,
  LANGUAGE_NAMES,
  plainPage,
  questionPage,
  quotaPage,
  refusedPage,
  restPage,
  termsPage,
  textsOf,
  accountPage,
  userPage,
  waitingPage,
  welcomePage,
  type Drawn,
  type GuestWay,
  type Language,
  type PageOf,
} from '@iron-lattice/core/guests';
import type { Portal } from '@iron-lattice/core/intent';
import { openingAt } from '@iron-lattice/core/rules';
import { SharedStore } from '../shell/shared-store';
import { PortalPictures } from './portal-pictures';

type Step = (typeof STEPS)[number];
const STEPS = [
  ...([
    'Welcome',
    'Wrong code',
    'Too many devices',
    'Says who it is',
    'Gives the code sent',
    'Asks somebody',
    'Waits for a yes',
  ] as const),
  ...(['Gives name and password', 'Has an account'] as const),
  ...(['Whoever says yes', 'Is told no', 'No answer in time'] as const),
  ...(['Terms', 'Being let in', 'Online', 'Used up', 'Over', 'Has to wait', 'Closed', 'Kept out'] as const),
] as const;
/** Steps that some ways in alone have. */
const STEP_WAYS: Readonly<Partial<Record<Step, readonly GuestWay[]>>> = {
  'Wrong code': ['code'],
  'Too many devices': ['code'],
  'Says who it is': ['mail', 'phone'],
  'Gives the code sent': ['mail', 'phone'],
  'Gives name and password': ['user'],
  'Has an account': ['account'],
  'Asks somebody': ['sponsor'],
  'Waits for a yes': ['sponsor'],
  'Whoever says yes': ['sponsor'],
  'Is told no': ['sponsor'],
  'No answer in time': ['sponsor'],
};

/** A guest who asks, in the preview. */
const SAID = { name: 'Rin Marlow', company: 'Gull & Sons', reason: 'Repairs of the winch' };

/** The pages of a portal as guests see them, drawn by what draws them for guests: at the size of a phone, or of a desk. */
@Component({
  selector: 'il-portal-preview',
  imports: [MatSelectModule],
  template: `
    <div class="bar">
      <mat-form-field>
        <mat-select aria-label="Step of the portal" [value]="step()" (selectionChange)="asked.set($event.value)">
          @for (each of steps(); track each) {
            <mat-option [value]="each">{{ each }}</mat-option>
          }
        </mat-select>
      </mat-form-field>
      @if (portal().languages.length > 1) {
        <mat-form-field>
          <mat-select
            aria-label="Language of the preview"
            [value]="language()"
            (selectionChange)="chosen.set($event.value)"
          >
            @for (each of portal().languages; track each) {
              <mat-option [value]="each">{{ names[each] }}</mat-option>
            }
          </mat-select>
        </mat-form-field>
      }
      <div class="choices" role="group" aria-label="Size of the preview">
        <button type="button" [attr.aria-pressed]="!desk()" (click)="desk.set(false)">Phone</button>
        <button type="button" [attr.aria-pressed]="desk()" (click)="desk.set(true)">Desk</button>
      </div>
    </div>
    <div class="frame" [class.desk]="desk()">
      <iframe sandbox="" tabindex="-1" [title]="'How the portal looks: ' + step()" [srcdoc]="page()"></iframe>
    </div>
  `,
  styles: `
    :host {
      display: block;
      padding: 8px 14px;
      border-left: 1px solid var(--rule);
    }
    .bar {
      display: flex;
      flex-wrap: wrap;
      gap: 6px 10px;
      padding-bottom: 8px;
    }
    mat-form-field {
      width: 130px;
    }
    .frame {
      overflow: hidden;
      border: 1px solid var(--ink);
      width: 302px;
      height: 460px;
      max-width: 100%;
    }
    .frame.desk {
      width: 100%;
    }
    /* Drawn at its own size, and shown smaller. */
    iframe {
      border: 0;
      width: 390px;
      height: 597px;
      transform: scale(0.77);
      transform-origin: 0 0;
      background: #fff;
    }
    .desk iframe {
      width: 1000px;
      height: 1150px;
      transform: scale(0.4);
    }
  `,
})
export class PortalPreview {
  private readonly sanitizer = inject(DomSanitizer);
  private readonly pictures = inject(PortalPictures);
  private readonly shared = inject(SharedStore);
  readonly portal = input.required<Portal>();
  /** Name of the site whose guests it welcomes. */
  readonly siteName = input.required<string>();
  readonly timeZone = input.required<string>();
  protected readonly steps = computed(() =>
    STEPS.filter((each) => {
      const { ways, rest, hours } = this.portal();
      if (each === 'Has to wait') return Boolean(rest);
      if (each === 'Closed') return Boolean(hours);
      return STEP_WAYS[each]?.some((way) => ways.includes(way)) ?? true;
    }),
  );
  protected readonly names = LANGUAGE_NAMES;
  protected readonly asked = signal<Step>('Welcome');
  protected readonly step = computed((): Step => (this.steps().includes(this.asked()) ? this.asked() : 'Welcome'));
  protected readonly desk = signal(false);
  protected readonly chosen = signal<Language | null>(null);
  protected readonly language = computed((): Language => {
    const [chosen, { languages }] = [this.chosen(), this.portal()];
    return chosen !== null && languages.includes(chosen) ? chosen : (languages[0] ?? 'en');
  });
  /** It is text that was made by the very pages guests get, where all that people type is escaped; the frame runs no scripts. */
  protected readonly page = computed((): SafeHtml => {
    const [portal, language] = [this.portal(), this.language()];
    const of: PageOf = { portal, language, siteName: this.siteName(), timeZone: this.timeZone(), proof: null };
    const { refresh: _refresh, ...drawn } = this.drawn(of);
    return this.sanitizer.bypassSecurityTrustHtml(
      documentOf(drawn, { portal, language }, '', (id) => this.pictures.at(id)),
    );
  });

  /** When guests are let in next, if they were not now. */
  private opens(): number | null {
    const hours = this.shared.estate()?.hours?.find(({ id }) => id === this.portal().hours);
    if (!hours) return null;
    const { open, until } = openingAt(hours, this.timeZone(), Date.now());
    return open && until !== null ? openingAt(hours, this.timeZone(), until).until : until;
  }

  private readonly within = computed(() => this.portal().sponsors?.within || 60);

  private drawn(of: PageOf): Drawn {
    const texts = textsOf(of.language);
    const until = Date.now() + this.portal().visit * 60_000;
    const left = this.portal().dataADay ? this.portal().dataADay! * 500_000 : null;
    switch (this.step()) {
      case 'Wrong code':
        return welcomePage(of, texts.codeWrong, 'ABCD-2345');
      case 'Too many devices':
        return welcomePage(of, texts.codeDevices, 'ABCD-2345');
      case 'Says who it is':
        return askPage(of, this.portal().ways.includes('mail') ? 'mail' : 'phone');
      case 'Gives the code sent':
        return confirmPage(of, { to: 'r…@skerrow.example', until: Date.now() + CODE_MINUTES * 60_000, wasIn: false });
      case 'Gives name and password':
        return userPage(of);
      case 'Has an account':
        return accountPage(of);
      case 'Asks somebody':
        return askPage(of, 'sponsor');
      case 'Waits for a yes':
        return askedPage(of, { who: 'ida@skerrow.example', until: Date.now() + this.within() * 60_000 });
      case 'Whoever says yes':
        return questionPage(of, {
          ...{ said: SAID, contact: 'rin@skerrow.example', mac: '0e:c4:11:00:01:ed', at: Date.now() },
          visit: this.portal().visit,
        });
      case 'Is told no':
        return refusedPage(of);
      case 'No answer in time':
        return welcomePage(of, texts.unanswered);
      case 'Terms':
        return termsPage(of);
      case 'Being let in':
        return waitingPage(of, false);
      case 'Online':
        return donePage(of, { until, left, resets: null }, 'http://news.example/');
      case 'Used up':
        return this.portal().slow
          ? donePage(of, { until, left: 0, slowed: true, resets: until }, 'http://news.example/')
          : quotaPage(of, until);
      case 'Over':
        return welcomePage(of, texts.over);
      case 'Has to wait':
        return restPage(of, Date.now() + (this.portal().rest ?? 0) * 60_000);
      case 'Closed':
        return closedPage(of, this.opens());
      case 'Kept out':
        return plainPage(texts.blocked);
      case 'Welcome':
        return welcomePage(of, null);
    }
  }
}
