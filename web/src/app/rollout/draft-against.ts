import { Component, computed, input, model } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatCheckboxModule } from '@angular/material/checkbox';
import type { RolloutCheck } from '@iron-lattice/core/rollout';
import { counted } from '../ui/counted';

/** Devices changed by hand that are named, and sites of another rollout. */
const MOST_NAMED = 8;

/** Sites at which somebody would be cut off: their names have to be typed. */
export const cutSitesOf = (check: RolloutCheck | null): readonly string[] => [
  ...new Set((check?.lockOuts ?? []).map(({ siteName }) => siteName)),
];

/** What stands against rolling a draft out, beside errors: each is answered here before it can be. */
@Component({
  selector: 'il-draft-against',
  imports: [FormsModule, MatCheckboxModule],
  template: `
    @if (check().held.length > 0) {
      <div class="against" role="group" aria-label="Rolled out there now">
        <b class="caution">Another draft is being rolled out at sites that this one tells something new</b>
        @for (each of heldBy(); track each.draftName) {
          <p>“{{ each.draftName }}” at {{ each.sites }}.</p>
        }
        <p class="soft">Wait until that is over, or stop it. What is edited here stays.</p>
      </div>
    }
    @if (check().broken.length > 0) {
      <div class="against" role="group" aria-label="Guarantees that it would break">
        <b class="bad"
          >{{ check().broken.length === 1 ? 'A guarantee' : check().broken.length + ' guarantees' }} would be broken</b
        >
        @for (each of check().broken; track $index) {
          <p>
            {{ each.siteName }}: {{ each.words }} <span class="mono soft">{{ each.packet }}</span>
          </p>
        }
        <label for="rollout-reason">Why it is rolled out all the same; the journal keeps it</label>
        <input
          id="rollout-reason"
          autocomplete="off"
          [value]="reason()"
          (input)="reason.set($any($event.target).value)"
        />
      </div>
    }
    @if (check().drifted.length > 0) {
      <div class="against" role="group" aria-label="Devices changed by hand">
        <b class="caution">{{ counted(check().drifted.length, 'device') }} changed by hand</b>
        <p>
          {{ drifted() }}. What was changed there is lost when they are told; their sheets, under Runs, show it, and
          take it over into the draft.
        </p>
        <mat-checkbox name="put-right" [ngModel]="putRight()" (ngModelChange)="putRight.set($event)">
          Put them right
        </mat-checkbox>
      </div>
    }
    @if (check().lockOuts.length > 0) {
      <div class="against" role="group" aria-label="Who would be cut off">
        <b class="bad">Would not reach this controller any more</b>
        @for (each of check().lockOuts; track $index) {
          <p>
            {{ each.siteName }}: {{ each.name }} <span class="mono soft">{{ each.packet }}</span> {{ each.why }}
          </p>
        }
        @for (name of cutSites(); track name) {
          <label [for]="'rollout-' + name">Type the site’s name, {{ name }}, to do it all the same</label>
          <input
            [id]="'rollout-' + name"
            autocomplete="off"
            [value]="typed()[name] ?? ''"
            (input)="type(name, $any($event.target).value)"
          />
        }
      </div>
    }
  `,
  styles: `
    .against {
      padding: 8px 14px;
      border-bottom: 1px solid var(--rule);
      border-left: 3px solid var(--bad);
    }
    .against label {
      display: block;
      margin-top: 6px;
      color: var(--soft);
    }
    .against input {
      width: min(420px, 100%);
      height: 28px;
      padding: 0 8px;
      border: 1px solid var(--strong);
      background: var(--sheet);
      color: var(--ink);
      font: inherit;
    }
  `,
})
export class DraftAgainst {
  readonly check = input.required<RolloutCheck>();
  /** Why guarantees are broken knowingly. */
  readonly reason = model.required<string>();
  /** Whether devices changed by hand are put right. */
  readonly putRight = model.required<boolean>();
  /** Names of sites as they were typed, by the name. */
  readonly typed = model.required<Readonly<Record<string, string>>>();
  protected readonly counted = counted;
  protected readonly cutSites = computed(() => cutSitesOf(this.check()));
  protected readonly drifted = computed(() => {
    const all = this.check().drifted;
    const names = all.slice(0, MOST_NAMED).map(({ name, siteName }) => `${name} at ${siteName}`);
    return `${names.join(', ')}${all.length > names.length ? ` and ${all.length - names.length} more` : ''}`;
  });

  /** Drafts that are being rolled out, with the sites that this one reaches too. */
  protected readonly heldBy = computed(() => {
    const sites = new Map<string, string[]>();
    for (const { draftName, siteName } of this.check().held)
      sites.set(draftName, [...(sites.get(draftName) ?? []), siteName]);
    return [...sites].map(([draftName, names]) => {
      const more = names.length - MOST_NAMED;
      return { draftName, sites: `${names.slice(0, MOST_NAMED).join(', ')}${more > 0 ? ` and ${more} more` : ''}` };
    });
  });

  protected type(name: string, text: string): void {
    this.typed.update((typed) => ({ ...typed, [name]: text }));
  }
}
