import { Component, HostListener, computed, effect, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { NavigationEnd, Router, RouterOutlet } from '@angular/router';
import { filter, map, startWith } from 'rxjs';
import { SessionStore } from '../session/session-store';
import { Dock } from './dock';
import { EstateDock } from './estate-dock';
import { EstateLine } from './estate-line';
import { SiteStore } from './site-store';
import { estateStages, STAGES } from './stage';
import { Theme } from './theme';
import { TopBar } from './top-bar';
import { WorkLine } from './work-line';

/** The frame around everything: top bar, work line, work area, consequences. */
@Component({
  selector: 'il-shell',
  imports: [RouterOutlet, TopBar, WorkLine, EstateLine, Dock, EstateDock],
  template: `
    <a class="visually-hidden" href="#work">To the work area</a>
    <il-top-bar [atSite]="atSite()" />
    @if (!session.connected()) {
      <p class="lost" role="status">
        The controller does not answer. What you see may be old; it is being tried again.
      </p>
    }
    @if (atSite()) {
      <il-work-line />
    } @else {
      <il-estate-line />
    }
    <div class="body">
      <main id="work" tabindex="-1"><router-outlet /></main>
      @if (atSite()) {
        <il-dock />
      } @else if (isDocked()) {
        <il-estate-dock />
      }
    </div>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      height: 100dvh;
    }
    .body {
      flex: 1;
      display: flex;
      min-height: 0;
    }
    main {
      flex: 1;
      min-width: 0;
      outline: none;
    }
    .lost {
      background: var(--caution);
      color: var(--ground);
      padding: 3px 14px;
    }
    .visually-hidden:focus {
      position: static;
      width: auto;
      height: auto;
      clip-path: none;
      padding: 4px 14px;
    }
    @media (max-width: 720px) {
      .body {
        flex-direction: column;
      }
      main {
        min-height: 0;
      }
    }
  `,
})
export class Shell {
  private readonly router = inject(Router);
  private readonly site = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  private readonly url = toSignal(
    this.router.events.pipe(
      filter((event) => event instanceof NavigationEnd),
      map(() => this.router.url),
      startWith(this.router.url),
    ),
    { initialValue: this.router.url },
  );
  protected readonly atSite = computed(() => this.url().startsWith('/sites/'));

  private readonly docked = new Set(estateStages(inject(STAGES)).flatMap(({ shows, path }) => (shows ? [path] : [])));
  /** Whether what the draft means at all sites stands beside what is shown over all of them. */
  protected readonly isDocked = computed(() => this.docked.has(this.url().split(/[/?]/)[1] ?? ''));

  constructor() {
    inject(Theme);
    effect(() => {
      if (!this.atSite()) this.site.siteId.set(null);
    });
  }

  /** Undo and redo everywhere but in text that is being typed, which has its own. */
  @HostListener('document:keydown', ['$event'])
  protected onKey(event: KeyboardEvent): void {
    if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return;
    const target = event.target as HTMLElement;
    if (
      target.isContentEditable ||
      target.tagName === 'TEXTAREA' ||
      (target.tagName === 'INPUT' && isText(target as HTMLInputElement))
    )
      return;
    // Over all sites what is live is not taken back by a key.
    if (!this.session.mayChange() || (!this.atSite() && !this.site.draft()?.edits)) return;
    event.preventDefault();
    void this.site.turn(event.shiftKey ? 'redo' : 'undo');
  }
}

const isText = (input: HTMLInputElement): boolean => !['checkbox', 'radio', 'range', 'button'].includes(input.type);
