import { DatePipe } from '@angular/common';
import { Component, computed, inject, input, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { MadeCertificate } from '@iron-lattice/core/entry';
import { attempt, type Problem } from '../../session/problem';
import { SessionStore } from '../../session/session-store';
import { SiteStore } from '../../shell/site-store';
import { anewFor } from '../../ui/anew-for';
import { Cell } from '../../ui/cell';
import { TextCell } from '../../ui/text-cell';
import { CertificateStore } from './certificate-store';
import { MadeCertificateCell } from './made-certificate';

/** Certificates of a user, or those of other servers: made, and taken back. What is done here acts at once. */
@Component({
  selector: 'il-certificate-list',
  imports: [DatePipe, MatButtonModule, Cell, MadeCertificateCell, TextCell],
  template: `
    <il-cell
      [label]="user() ? 'Certificates, to sign in without a password' : 'Certificates of other servers'"
      size="full"
    >
      <ul>
        @for (each of holding(); track each.serial) {
          <li>
            <span>{{ (user() ? each.label : each.name) || 'no label' }}</span>
            <span [class.caution]="store.endsSoon(each)" [class.soft]="!store.endsSoon(each)">
              {{ store.endsSoon(each) ? 'ends' : 'until' }} {{ each.until | date: 'd MMM y' }}, made by {{ each.by }}
            </span>
            @if (session.mayChange()) {
              @if (asked() === each.serial) {
                <span class="caution">It is taken nowhere any more, for good.</span>
                <button mat-stroked-button type="button" [disabled]="busy()" (click)="revoke(each.serial)">
                  Take this one back
                </button>
                <button mat-button type="button" (click)="asked.set(null)">Leave it</button>
              } @else {
                <button mat-button type="button" (click)="asked.set(each.serial)">Take back…</button>
              }
            }
          </li>
        } @empty {
          <li class="soft">None that holds.</li>
        }
      </ul>
      @if (made(); as made) {
        <il-made-certificate [made]="made" [user]="user()?.name" />
      }
    </il-cell>
    @if (session.mayChange()) {
      <il-text-cell
        [label]="user() ? 'Another one, kept on' : 'Another one, for the server'"
        for="certificate-of"
        size="wide"
        [hint]="hint()"
        [example]="user() ? 'laptop' : 'quay.radius.internal'"
        [flaw]="problem()?.message"
        [value]="text()"
        (typed)="text.set($event)"
        (entered)="make()"
      >
        <button
          beside
          mat-button
          type="button"
          [disabled]="busy() || (!user() && text().trim() === '')"
          (click)="make()"
        >
          Make a certificate
        </button>
      </il-text-cell>
    }
  `,
  styles: `
    :host {
      display: contents;
    }
    ul {
      list-style: none;
      margin: 0;
      padding: 0;
    }
    li {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 0 8px;
      min-height: 28px;
    }
  `,
})
export class CertificateList {
  protected readonly store = inject(CertificateStore);
  protected readonly session = inject(SessionStore);
  private readonly site = inject(SiteStore);
  /** Whose; absent: those of servers. */
  readonly user = input<{ readonly id: string; readonly name: string } | null>(null);
  private readonly of = (): string => this.user()?.id ?? 'servers';
  protected readonly text = anewFor<string>(this.of, () => '');
  protected readonly made = anewFor<MadeCertificate | null>(this.of, () => null);
  /** Serial number of the one that somebody is asked about. */
  protected readonly asked = anewFor<string | null>(this.of, () => null);
  protected readonly problem = anewFor<Problem | null>(
    () => `${this.of()} ${this.text()}`,
    () => null,
  );
  protected readonly busy = signal(false);
  protected readonly holding = computed(() => this.store.holding(this.user()?.id ?? null));
  protected readonly hint = computed(() =>
    this.user()
      ? `Of this estate’s authority, for ${this.store.usualDays} days; it acts at once (EAP-TLS)`
      : `Clients that believe the authority then believe that server under that name, for ${this.store.usualDays} days`,
  );

  protected async make(): Promise<void> {
    const [user, text] = [this.user(), this.text()];
    let made: MadeCertificate | null = null;
    const done = await attempt(this.busy, this.problem, async () => {
      made = await (user ? this.store.forUser(user.id, text.trim()) : this.store.forServer(text.trim()));
    });
    if (!done) return;
    this.text.set('');
    this.made.set(made);
  }

  protected async revoke(serial: string): Promise<void> {
    if (!(await attempt(this.busy, this.problem, () => this.store.revoke(serial)))) return;
    if (this.made()?.serial === serial) this.made.set(null);
    this.site.say('The certificate was taken back: it is taken nowhere any more.');
  }
}
