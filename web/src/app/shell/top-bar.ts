import { Component, computed, inject, input } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatMenuModule } from '@angular/material/menu';
import { MatTooltipModule } from '@angular/material/tooltip';
import { Router, RouterLink } from '@angular/router';
import { SessionStore } from '../session/session-store';
import { Mark } from '../ui/mark';
import { EstateStore } from './estate-store';
import { SearchOrDo } from './search-or-do';
import { SitePath } from './site-path';
import { SiteStore } from './site-store';
import { Theme } from './theme';

@Component({
  selector: 'il-top-bar',
  imports: [MatButtonModule, MatMenuModule, MatTooltipModule, RouterLink, Mark, SearchOrDo, SitePath],
  template: `
    <a class="home" routerLink="/" aria-label="Iron Lattice, all sites"><il-mark /><b>Iron Lattice</b></a>
    <il-site-path />
    <il-search-or-do />
    <span class="grow"></span>
    @if (store.draft(); as draft) {
      <div class="draft">
        <button
          class="name"
          (click)="store.listDrafts()"
          [matMenuTriggerFor]="draftMenu"
          [matTooltip]="'On top of revision ' + draft.baseRevision"
        >
          <span class="words">{{ draft.name }}</span>
          <span class="soft">{{ edits() }}</span>
        </button>
        <mat-menu #draftMenu>
          <button mat-menu-item [disabled]="!draft.canUndo || !session.mayChange()" (click)="store.turn('undo')">
            {{ undo() }} <span class="soft">Ctrl Z</span>
          </button>
          <button mat-menu-item [disabled]="!draft.canRedo || !session.mayChange()" (click)="store.turn('redo')">
            Redo <span class="soft">Ctrl Shift Z</span>
          </button>
          <button mat-menu-item [disabled]="draft.edits === 0 || !session.mayChange()" (click)="store.discard()">
            Discard this draft
          </button>
          <button mat-menu-item [disabled]="!session.mayChange()" (click)="store.startDraft()">
            Start another draft
          </button>
          @for (other of store.drafts(); track other.id) {
            @if (other.id !== draft.id) {
              <button mat-menu-item (click)="store.takeUp(other.id)">
                Go on with {{ other.name }}
                <span class="soft">{{ other.edits === 1 ? '1 edit' : other.edits + ' edits' }}, {{ other.by }}</span>
              </button>
            }
          }
        </mat-menu>
        <a class="roll" [class.idle]="draft.edits === 0 && draft.behind === 0" [routerLink]="rollout()">
          {{ draft.state === 'rolling-out' ? 'Rolling out…' : 'Roll out…' }}
        </a>
      </div>
    }
    <button class="who" [matMenuTriggerFor]="personMenu" [attr.aria-label]="'Signed in: ' + session.person()?.name">
      {{ initials() }}
    </button>
    <mat-menu #personMenu>
      <div class="person">
        <b>{{ session.person()?.name }}</b><br /><span class="soft">{{ session.person()?.role }}</span>
      </div>
      <button mat-menu-item (click)="theme.toggle()">{{ theme.name() === 'light' ? 'Dark' : 'Light' }} theme</button>
      <button mat-menu-item (click)="signOut()">Sign out</button>
    </mat-menu>
  `,
  styles: `
    :host {
      position: relative;
      display: flex;
      align-items: center;
      gap: 14px;
      height: 46px;
      padding: 0 14px;
      border-bottom: 1px solid var(--ink);
      flex: none;
    }
    .home {
      display: flex;
      align-items: center;
      gap: 9px;
      text-decoration: none;
      font:
        600 15px/20px 'Barlow Semi Condensed',
        Barlow;
      white-space: nowrap;
    }
    .draft {
      display: flex;
      height: 30px;
      border: 1px solid var(--ink);
    }
    .draft .name,
    .who {
      all: unset;
      cursor: pointer;
      box-sizing: border-box;
    }
    .draft .name {
      display: flex;
      gap: 6px;
      align-items: center;
      padding: 0 10px;
      white-space: nowrap;
    }
    .roll {
      display: flex;
      align-items: center;
      padding: 0 12px;
      background: var(--iron);
      color: var(--on-iron);
      font-weight: 600;
      text-decoration: none;
      white-space: nowrap;
    }
    .roll.idle {
      background: none;
      color: var(--soft);
      border-left: 1px solid var(--rule);
      font-weight: 500;
    }
    .who {
      width: 28px;
      height: 28px;
      border: 1px solid var(--ink);
      display: grid;
      place-items: center;
      font:
        600 11px/1 'Barlow Semi Condensed',
        Barlow;
      flex: none;
    }
    .draft .name:focus-visible,
    .who:focus-visible {
      outline: 2px solid var(--iron);
      outline-offset: 1px;
    }
    .person {
      padding: 8px 12px;
      border-bottom: 1px solid var(--rule);
    }
    @media (max-width: 720px) {
      :host {
        gap: 8px;
        padding: 0 10px;
      }
      .home b,
      .draft .words {
        display: none;
      }
      .draft .name {
        padding: 0 8px;
      }
      .roll {
        padding: 0 8px;
      }
    }
  `,
})
export class TopBar {
  private readonly router = inject(Router);
  protected readonly session = inject(SessionStore);
  protected readonly store = inject(SiteStore);
  protected readonly estate = inject(EstateStore);
  protected readonly theme = inject(Theme);
  readonly atSite = input(false);
  /** What an undo would take back. */
  protected readonly undo = computed(() => {
    const { undoes = 0, undoesLive = false } = this.store.draft() ?? {};
    if (undoesLive) return 'Undo what was last made live';
    return undoes > 1 ? `Undo last ${undoes} edits, made together` : 'Undo last edit';
  });
  /** Where the draft is rolled out: from the site in front, or over all sites. */
  protected readonly rollout = computed(() =>
    this.atSite() ? ['/sites', this.store.siteId(), 'rollout'] : ['/rollout'],
  );

  protected readonly edits = computed(() => {
    const count = this.store.draft()?.edits ?? 0;
    return count === 0 ? 'no edits' : count === 1 ? '1 edit' : `${count} edits`;
  });
  protected readonly initials = computed(() =>
    (this.session.person()?.name ?? '?')
      .split(' ')
      .map((word) => word[0])
      .join('')
      .slice(0, 2),
  );

  protected async signOut(): Promise<void> {
    await this.session.signOut();
    await this.router.navigate(['/sign-in']);
  }
}
