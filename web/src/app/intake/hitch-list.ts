import { DatePipe } from '@angular/common';
import { Component, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { HitchView } from '@iron-lattice/core/intake';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { IntakeApi } from './intake-api';

/** What keeps devices from coming in or staying in step: the reason, what to do, and a way to try again. */
@Component({
  selector: 'il-hitch-list',
  imports: [DatePipe, MatButtonModule],
  template: `
    <ol>
      @for (hitch of hitches(); track hitch.id) {
        <li>
          <button class="who mono" [disabled]="!hitch.deviceId" (click)="shown.emit(hitch.deviceId!)">
            {{ hitch.who }}
          </button>
          <div class="what">
            <p>{{ hitch.reason }}</p>
            <p class="soft">{{ hitch.next }}</p>
          </div>
          <span class="soft when">
            {{ hitch.lastAt | date: 'd MMM, HH:mm' }}{{ hitch.times > 1 ? ', ' + hitch.times + ' times' : '' }}
          </span>
          @if (session.mayChange()) {
            <span class="acts">
              @if (hitch.code === 'model') {
                <label class="file">
                  Supply hardware sheet
                  <input type="file" accept=".json,application/json" (change)="supply($event)" />
                </label>
              }
              <button mat-stroked-button (click)="retry(hitch)">{{ hitch.retry }}</button>
              <button mat-button (click)="dismiss(hitch)">Leave out</button>
            </span>
          }
        </li>
      } @empty {
        <li class="soft">Nothing keeps a device from coming in or staying in step.</li>
      }
    </ol>
  `,
  styles: `
    ol {
      list-style: none;
      margin: 0;
      padding: 0;
    }
    li {
      display: flex;
      align-items: center;
      flex-wrap: wrap;
      gap: 4px 14px;
      padding: 7px 14px;
      border-bottom: 1px solid var(--rule);
    }
    .who {
      all: unset;
      cursor: pointer;
      width: 118px;
      font-family: 'JetBrains Mono', monospace;
      font-size: 12px;
      font-weight: 600;
      overflow-wrap: anywhere;
    }
    .who:disabled {
      cursor: default;
    }
    .who:focus-visible {
      outline: 2px solid var(--iron);
    }
    .what {
      flex: 1 1 320px;
    }
    .acts {
      display: flex;
      gap: 6px;
      align-items: center;
    }
    .file {
      border: 1px solid var(--strong);
      padding: 3px 10px;
      cursor: pointer;
      font-weight: 500;
    }
    .file:focus-within {
      outline: 2px solid var(--iron);
    }
    .file input {
      position: absolute;
      opacity: 0;
      width: 1px;
    }
  `,
})
export class HitchList {
  private readonly api = inject(IntakeApi);
  private readonly site = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly hitches = input.required<readonly HitchView[]>();
  /** Id of a device whose sheet is wanted. */
  readonly shown = output<string>();

  protected retry(hitch: HitchView): Promise<boolean> {
    return this.site.attempt(() => this.api.retryHitch(hitch.id));
  }

  protected dismiss(hitch: HitchView): Promise<boolean> {
    return this.site.attempt(() => this.api.dismissHitch(hitch.id));
  }

  protected async supply(event: Event): Promise<void> {
    const input = event.target as HTMLInputElement;
    const file = input.files?.[0];
    input.value = '';
    if (!file) return;
    await this.site.attempt(async () => {
      let sheet: object;
      try {
        sheet = JSON.parse(await file.text()) as object;
      } catch {
        throw new Error('This file is no hardware sheet: it is not JSON.');
      }
      const { model } = await this.api.supplySheet(sheet);
      this.site.say(`${model} is known now. Its devices come in when they call next.`);
    });
  }
}
