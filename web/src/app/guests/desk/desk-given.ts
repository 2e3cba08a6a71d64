import { lastsWords } from '@iron-lattice/core/base';
import { Component, computed, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { signInUrl, writtenCode } from '@iron-lattice/core/guests';
import { anewFor } from '../../ui/anew-for';
import { counted } from '../../ui/counted';
import { Qr } from '../../ui/qr';
import { SendCode } from '../send-code';
import { DeskStore } from './desk-store';

/** What was given last: large enough to be read across a desk, and for a phone to look at. */
@Component({
  selector: 'il-desk-given',
  imports: [MatButtonModule, Qr, SendCode],
  template: `
    <section aria-label="Given">
      @if (one(); as given) {
        <p class="who">{{ given.name || 'A guest' }}</p>
        <p class="code mono" data-code>{{ written(given.code) }}</p>
        <p class="soft">{{ lasts() }}</p>
        <div class="qr">
          @if (ssid(); as ssid) {
            @if (ssid.join) {
              <figure>
                <il-qr [text]="ssid.join" [label]="'Joins ' + ssid.name" />
                <figcaption>1. Join {{ ssid.name }}</figcaption>
              </figure>
            } @else {
              <p class="soft">Its Wi-Fi {{ ssid.name }} asks for a key of its own.</p>
            }
          }
          <figure>
            <il-qr [text]="signIn()" label="Gives the code" />
            <figcaption>{{ ssid()?.join ? '2. Sign in' : 'Sign in' }}</figcaption>
          </figure>
        </div>
        @if (sending()) {
          <il-send-code [code]="given.id" at="/api/reception/codes" />
        }
      } @else {
        <ul>
          @for (each of store.given(); track each.id) {
            <li>
              <b class="mono">{{ written(each.code) }}</b> <span class="soft">{{ each.name }}</span>
            </li>
          }
        </ul>
      }
      <div class="acts">
        <button mat-flat-button (click)="store.print()">{{ printLabel() }}</button>
        <button mat-stroked-button (click)="store.print(true)">As PDF</button>
        @if (one() && !sending()) {
          <button mat-stroked-button (click)="sending.set(true)">Send…</button>
        }
        <button mat-stroked-button (click)="store.given.set([])">Put away</button>
      </div>
    </section>
  `,
  styles: `
    section {
      padding: 12px 14px 14px;
      border: 1px solid var(--ink);
      border-top-width: 3px;
      background: var(--sheet);
    }
    p {
      margin: 0;
    }
    .who {
      font-size: 16px;
      font-weight: 600;
      overflow-wrap: anywhere;
    }
    .code {
      margin: 4px 0;
      font-size: 34px;
      line-height: 42px;
      letter-spacing: 0.06em;
      user-select: all;
    }
    .qr {
      display: flex;
      gap: 14px;
      margin: 12px 0;
    }
    figure {
      flex: 0 1 150px;
      min-width: 0;
      margin: 0;
    }
    figcaption {
      margin-top: 4px;
      font-size: 13px;
      overflow-wrap: anywhere;
    }
    ul {
      margin: 0 0 12px;
      padding: 0;
      list-style: none;
      max-height: 260px;
      overflow: auto;
    }
    li b {
      font-size: 18px;
    }
    .acts {
      margin-top: 10px;
      display: flex;
      gap: 10px;
    }
    .acts button {
      height: 44px;
      font-size: 16px;
    }
    .acts button:first-child {
      flex: 1 0 auto;
    }
    @media (max-width: 480px) {
      .acts {
        flex-wrap: wrap;
      }
      .acts button {
        flex: 1;
      }
      .acts button:first-child {
        flex-basis: 100%;
      }
    }
  `,
})
export class DeskGiven {
  protected readonly store = inject(DeskStore);
  protected readonly written = writtenCode;
  protected readonly one = computed(() => (this.store.given().length === 1 ? this.store.given()[0]! : null));
  /** Whether it is to be sent to the guest. */
  protected readonly sending = anewFor(
    () => this.one()?.id,
    () => false,
  );
  protected readonly ssid = computed(() => {
    const given = this.one();
    return given ? this.store.ssidOf(given) : null;
  });
  protected readonly signIn = computed(() => signInUrl(this.store.portalUrl(), this.one()?.code ?? ''));
  protected readonly lasts = computed(() => {
    const { minutes, most } = this.one()!;
    const devices = most === null ? 'any number of devices' : counted(most, 'device');
    return `${lastsWords(minutes)} from its first use, ${devices}`;
  });
  protected readonly printLabel = computed(() => {
    const { length } = this.store.given();
    return length === 1 ? 'Print slip' : `Print ${counted(length, 'slip')}`;
  });
}
