import { Component, computed, effect, inject, input, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { ActivatedRoute, Router } from '@angular/router';
import { SessionStore } from '../session/session-store';
import { SharedStore } from '../shell/shared-store';
import { OpenedRow } from '../ui/opened-row';
import { Stage } from '../ui/stage';
import { CodeListSheet } from './code-list-sheet';
import { CodeSheet } from './code-sheet';
import { CodesView } from './codes-view';
import { GuestNetworkSheet } from './guest-network-sheet';
import { GUEST_VIEWS, GuestsStore, type GuestView } from './guests-store';
import { MailView } from './mail-view';
import { NewCodesSheet } from './new-codes-sheet';
import { PortalSheet } from './portal-sheet';
import { PortalsView } from './portals-view';
import { ReceptionStore } from './reception-store';
import { ReceptionView } from './reception-view';
import { ReceptionistSheet } from './receptionist-sheet';
import { TextView } from './text-view';
import { VisitSheet } from './visit-sheet';
import { VisitsView } from './visits-view';

/** Guests, of one site or of all: where they sign in, the codes that let them in, and who is here. */
@Component({
  selector: 'il-guests-page',
  imports: [
    MatButtonModule,
    CodeListSheet,
    CodeSheet,
    CodesView,
    GuestNetworkSheet,
    MailView,
    NewCodesSheet,
    PortalSheet,
    PortalsView,
    ReceptionistSheet,
    ReceptionView,
    Stage,
    TextView,
    VisitSheet,
    VisitsView,
  ],
  providers: [GuestsStore, ReceptionStore],
  template: `
    <il-stage heading="Guests" [note]="note()">
      <div actions class="choices" role="group" aria-label="What is shown">
        @for (each of views; track each) {
          <button type="button" [attr.aria-pressed]="store.view() === each" (click)="look(each)">{{ each }}</button>
        }
      </div>
      @if (session.mayChange() && store.view() === 'Portals') {
        <button actions mat-stroked-button (click)="copy(null)">Add portal</button>
      }
      @if (session.mayChange() && store.view() === 'Portals') {
        <button actions mat-flat-button (click)="opened.close(); composing.set(true)">Add guest network</button>
      }
      @if (session.mayChange() && store.view() === 'Reception') {
        <button actions mat-flat-button (click)="person.begin()">Add somebody</button>
      }
      @switch (store.view()) {
        @case ('Portals') {
          <il-portals-view [opened]="opened" />
        }
        @case ('Visit codes') {
          <il-codes-view />
        }
        @case ('Visits') {
          <il-visits-view />
        }
        @case ('Mail') {
          <div class="sending">
            <il-mail-view />
            <il-text-view />
          </div>
        }
        @case ('Reception') {
          <il-reception-view [opened]="person" />
        }
      }
      <ng-container ngProjectAs="[foot]">
        @switch (store.view()) {
          @case ('Portals') {
            @if (composing()) {
              <il-guest-network-sheet
                (closed)="composing.set(false)"
                (made)="composing.set(false); opened.open($event)"
              />
            } @else if (opened.isNew()) {
              <il-portal-sheet
                [portal]="null"
                [from]="copyOf()"
                (closed)="opened.close()"
                (kept)="opened.open($event)"
              />
            } @else if (opened.row(); as one) {
              <il-portal-sheet
                [portal]="one"
                (closed)="opened.close()"
                (copied)="copy(one.id)"
                (kept)="opened.open($event)"
              />
            }
          }
          @case ('Visit codes') {
            @if (store.sheet()?.of === 'new') {
              <il-new-codes-sheet (closed)="store.sheet.set(null)" />
            } @else if (store.sheet()?.of === 'list') {
              <il-code-list-sheet (closed)="store.sheet.set(null)" />
            } @else if (store.code(); as one) {
              <il-code-sheet [code]="one" (closed)="store.sheet.set(null)" />
            }
          }
          @case ('Reception') {
            @if (person.isNew()) {
              <il-receptionist-sheet [person]="null" (closed)="person.close()" (kept)="person.open($event)" />
            } @else if (person.row(); as one) {
              <il-receptionist-sheet [person]="one" (closed)="person.close()" />
            }
          }
          @case ('Visits') {
            @if (store.visit(); as one) {
              <il-visit-sheet [visit]="one" (closed)="store.sheet.set(null)" />
            }
          }
        }
      </ng-container>
    </il-stage>
  `,
  styles: `
    .sending {
      height: 100%;
      overflow: auto;
      border-top: 1px solid var(--ink);
    }
  `,
})
export class GuestsPage {
  protected readonly shared = inject(SharedStore).follow();
  protected readonly session = inject(SessionStore);
  protected readonly store = inject(GuestsStore);
  private readonly router = inject(Router);
  private readonly route = inject(ActivatedRoute);
  readonly show = input<string>();
  readonly add = input<string>();
  /** Which view, from the address of the page. */
  readonly as = input<string>();
  protected readonly views = GUEST_VIEWS;
  protected readonly opened = new OpenedRow({ rows: () => this.store.portals(), show: this.show, add: this.add });
  /** Whether a guest network is made in one go. */
  protected readonly composing = signal(false);
  /** Id of the portal that a new one begins as. */
  protected readonly copyOf = signal<string | null>(null);
  private readonly reception = inject(ReceptionStore);
  protected readonly person = new OpenedRow({ rows: () => this.reception.here() });
  protected readonly note = computed(() => {
    if (this.store.view() === 'Portals') return 'Where guests are held until they are let in.';
    if (this.store.view() === 'Mail') return 'By what mail and text messages go to guests.';
    if (this.store.view() === 'Reception') return 'Who gives guests their codes. What is done here acts at once.';
    if (this.store.view() === 'Visit codes') return 'What opens a portal for a while. Codes act at once.';
    return `Who was let in ${this.shared.atEstate() ? 'at all sites' : 'at this site'}. What is done here acts at once.`;
  });

  constructor() {
    effect(() => {
      const view = GUEST_VIEWS.find((each) => slug(each) === this.as());
      this.store.view.set(view ?? 'Portals');
      this.reception.inSight.set(view === 'Reception');
    });
  }

  /** Begins a new portal, as another one or as none. */
  protected copy(id: string | null): void {
    this.composing.set(false);
    this.copyOf.set(id);
    this.opened.begin();
  }

  protected look(view: GuestView): void {
    this.opened.close();
    this.composing.set(false);
    this.person.close();
    this.store.sheet.set(null);
    void this.router.navigate([], {
      relativeTo: this.route,
      queryParams: { as: view === 'Portals' ? null : slug(view), show: null },
      queryParamsHandling: 'merge',
    });
  }
}

const slug = (view: GuestView): string => view.toLowerCase().replace(' ', '-');
