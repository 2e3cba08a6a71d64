import { Component, DestroyRef, ElementRef, HostListener, computed, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { Router } from '@angular/router';
import { SessionStore } from '../../session/session-store';
import { Theme } from '../../shell/theme';
import { Mark } from '../../ui/mark';
import { DeskCodes } from './desk-codes';
import { DeskGiven } from './desk-given';
import { DeskNew } from './desk-new';
import { DeskStore } from './desk-store';
import { DeskVisits } from './desk-visits';

/** How often what is over by now is looked at again, in milliseconds. */
const LOOK_MS = 60_000;

/** Reception’s own screen: a code in ten seconds, who has one, who is here; nothing else. */
@Component({
  selector: 'il-desk-page',
  imports: [FormsModule, MatButtonModule, DeskCodes, DeskGiven, DeskNew, DeskVisits, Mark],
  providers: [DeskStore],
  template: `
    <header>
      <il-mark />
      <h1>Reception</h1>
      @if ((store.sites()?.length ?? 0) > 1) {
        <select aria-label="Site" [ngModel]="store.site()?.id" (ngModelChange)="store.choose($event)">
          @for (each of store.sites(); track each.id) {
            <option [value]="each.id">{{ each.name }}</option>
          }
        </select>
      } @else {
        <b class="site">{{ store.site()?.name }}</b>
      }
      <span class="grow"></span>
      @if (!session.connected()) {
        <span class="bad" role="status">The controller is away; trying again…</span>
      }
      <button mat-button class="wide" (click)="theme.toggle()">
        {{ theme.name() === 'light' ? 'Dark' : 'Light' }}
      </button>
      <span class="soft wide">{{ session.person()?.name }}</span>
      <button mat-stroked-button (click)="leave()">Sign out</button>
    </header>
    @if (none(); as words) {
      <main class="calm">
        <p>{{ words }}</p>
        @if (store.sites() || store.problem()) {
          <button mat-stroked-button (click)="store.look()">Look again</button>
        }
      </main>
    } @else {
      <main>
        <section class="new" aria-label="New code">
          @if (store.given().length > 0) {
            <il-desk-given />
          }
          <h2>New code <kbd class="wide">N</kbd></h2>
          <il-desk-new />
          @if (store.given().length === 0 && last(); as code) {
            <button mat-stroked-button class="last" (click)="store.show([code])">
              Show the last one again{{ code.name ? ': ' + code.name : '' }}
            </button>
          }
        </section>
        <section class="lists" aria-label="Codes and visits">
          <div class="bar">
            <div class="choices" role="group" aria-label="What is shown">
              <button type="button" [attr.aria-pressed]="shown() === 'codes'" (click)="shown.set('codes')">
                Codes
              </button>
              <button type="button" [attr.aria-pressed]="shown() === 'visits'" (click)="shown.set('visits')">
                Visits <b>{{ here() }}</b>
              </button>
            </div>
            <input
              type="search"
              aria-label="Find"
              [placeholder]="shown() === 'codes' ? 'Find by what it is for' : 'Find by code or device'"
              [ngModel]="filter()"
              (ngModelChange)="filter.set($event)"
            />
          </div>
          @if (shown() === 'codes') {
            <il-desk-codes [filter]="filter()" />
          } @else {
            <il-desk-visits [filter]="filter()" />
          }
          <p class="soft wide keys"><kbd>N</kbd> new code, <kbd>P</kbd> print what lies in front, <kbd>/</kbd> find</p>
        </section>
      </main>
    }
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      height: 100dvh;
      background: var(--ground);
    }
    header {
      display: flex;
      align-items: center;
      gap: 12px;
      flex: none;
      height: 52px;
      padding: 0 16px;
      border-bottom: 1px solid var(--ink);
    }
    h1 {
      margin: 0;
    }
    .site,
    select {
      font-size: 16px;
    }
    select {
      height: 36px;
      max-width: 220px;
      color: var(--ink);
      background: var(--ground);
      border: 1px solid var(--strong);
    }
    main {
      flex: 1;
      min-height: 0;
      display: grid;
      grid-template-columns: 400px 1fr;
    }
    main.calm {
      display: block;
      padding: 24px;
      font-size: 16px;
      max-width: 70ch;
    }
    .new {
      overflow: auto;
      padding: 14px 16px;
      background: var(--sheet);
      border-right: 1px solid var(--ink);
    }
    .lists {
      overflow: auto;
      padding: 0 16px 14px;
    }
    h2 {
      margin: 4px 0 8px;
      font-size: 17px;
    }
    il-desk-given {
      display: block;
      margin-bottom: 14px;
    }
    .last {
      width: 100%;
      height: 44px;
      margin-top: 10px;
    }
    .bar {
      position: sticky;
      top: 0;
      z-index: 1;
      display: flex;
      flex-wrap: wrap;
      gap: 10px;
      padding: 14px 0 8px;
      background: var(--ground);
      border-bottom: 1px solid var(--ink);
    }
    .bar .choices button {
      height: 38px;
      font-size: 15px;
    }
    input[type='search'] {
      flex: 1 1 180px;
      height: 40px;
      padding: 0 12px;
      font: 500 15px/20px Barlow;
      color: var(--ink);
      background: var(--sheet);
      border: 1px solid var(--strong);
    }
    .keys {
      margin: 14px 0 0;
    }
    kbd {
      padding: 0 5px;
      border: 1px solid var(--rule);
      font:
        500 11px/16px 'JetBrains Mono',
        monospace;
      color: var(--soft);
    }
    @media (max-width: 720px) {
      .wide {
        display: none;
      }
      main {
        display: block;
        overflow: auto;
      }
      .new,
      .lists {
        overflow: visible;
        border-right: 0;
      }
      .lists {
        border-top: 1px solid var(--ink);
      }
      .bar {
        position: static;
      }
    }
  `,
})
export class DeskPage {
  protected readonly store = inject(DeskStore);
  protected readonly session = inject(SessionStore);
  protected readonly theme = inject(Theme);
  private readonly router = inject(Router);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  protected readonly shown = signal<'codes' | 'visits'>('codes');
  protected readonly filter = signal('');
  /** Guests of the site in front who are let in. */
  protected readonly here = computed(
    () => this.store.visits().filter(({ siteId, state }) => siteId === this.store.site()?.id && state === 'in').length,
  );
  /** The latest code that was made from here, for whoever was asked to say it once more. */
  protected readonly last = computed(() => {
    const { name } = this.session.person() ?? { name: '' };
    return this.store.codes().find(({ own, by, state }) => own && by === name && state !== 'revoked') ?? null;
  });
  /** Why there is nothing to do here. */
  protected readonly none = computed(() => {
    const sites = this.store.sites();
    if (!sites) return this.store.problem()?.message ?? 'Asking…';
    if (sites.length === 0) return 'No site is yours to look after yet. Ask whoever runs the network to choose yours.';
    const [site, portal] = [this.store.site()!, this.store.portal()];
    return portal || sites.some(({ portals }) => portals.length > 0)
      ? ''
      : `No portal takes visit codes at ${site.name} at the moment. Ask whoever runs the network, then look again.`;
  });

  constructor() {
    const timer = setInterval(() => void this.store.look(), LOOK_MS);
    inject(DestroyRef).onDestroy(() => clearInterval(timer));
  }

  @HostListener('document:keydown', ['$event'])
  protected onKey(event: KeyboardEvent): void {
    const to = event.target as HTMLElement;
    if (event.ctrlKey || event.metaKey || event.altKey || /^(INPUT|SELECT|TEXTAREA)$/.test(to.tagName)) return;
    const key = event.key.toLowerCase();
    const field = key === 'n' ? '#desk-name' : key === '/' ? 'input[type=search]' : '';
    if (field !== '') this.host.nativeElement.querySelector<HTMLInputElement>(field)?.focus();
    else if (key === 'p' && this.store.given().length > 0) void this.store.print();
    else return;
    event.preventDefault();
  }

  protected async leave(): Promise<void> {
    await this.session.signOut();
    await this.router.navigateByUrl('/sign-in');
  }
}
