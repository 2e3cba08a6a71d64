import { Component, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { SessionStore } from '../session/session-store';
import { SeverityMark } from '../ui/severity-mark';
import { SiteStore } from './site-store';

/** Edits of the draft that no longer fit, each to be made again or dropped. */
@Component({
  selector: 'il-misfit-list',
  imports: [MatButtonModule, SeverityMark],
  template: `
    @for (misfit of store.draft()?.misfits ?? []; track misfit.number) {
      <article>
        <il-severity-mark severity="warning" />
        <div>
          <b>Edit {{ misfit.number }} no longer fits: {{ misfit.words }}</b>
          <p class="soft">{{ misfit.flaws[0]?.message }}</p>
          @if (session.mayChange()) {
            @if (misfit.again) {
              <button mat-stroked-button (click)="store.remakeMisfit(misfit.number)">Mine all the same</button>
            }
            <button mat-stroked-button (click)="store.dropMisfit(misfit.number)">Drop it</button>
          }
        </div>
      </article>
    }
  `,
  styles: `
    article {
      display: flex;
      gap: 10px;
      padding: 11px 14px;
      border-bottom: 1px solid var(--rule);
    }
    b {
      font-weight: 500;
      display: block;
      line-height: 17px;
    }
    p {
      margin: 2px 0 7px;
      line-height: 16px;
      overflow-wrap: anywhere;
    }
    button {
      margin: 0 5px 3px 0;
    }
  `,
})
export class MisfitList {
  protected readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
}
