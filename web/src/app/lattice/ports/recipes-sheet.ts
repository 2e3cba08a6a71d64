import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInputModule } from '@angular/material/input';
import type { Recipe } from '@iron-lattice/core/intent';
import type { RecipeStamp } from '@iron-lattice/core/lattice';
import { firstValueFrom } from 'rxjs';
import { EstateStore } from '../../shell/estate-store';
import { attempt, type Problem } from '../../session/problem';
import { SiteStore } from '../../shell/site-store';
import { Cell } from '../../ui/cell';
import { Sheet } from '../../ui/sheet';

const DOES = { add: 'added', change: 'changed to follow it', same: 'as it says already', refused: 'refused' } as const;

/** Segment recipes: one segment said once for many sites, each with a subnet of its own, looked at before it is stamped. */
@Component({
  selector: 'il-recipes-sheet',
  imports: [FormsModule, MatButtonModule, MatCheckboxModule, MatFormFieldModule, MatInputModule, Cell, Sheet],
  template: `
    <il-sheet
      heading="Segment recipes"
      note="Said once for the estate, stamped into many sites, each with its own subnet by rule."
      (closed)="closed.emit()"
    >
      <ng-container ngProjectAs="[actions]">
        @if (chosen()) {
          <button mat-button (click)="remove()">Remove</button>
        }
        <button mat-stroked-button (click)="keep()">{{ chosen() ? 'Keep the recipe' : 'Add the recipe' }}</button>
        @if (chosen()) {
          <button mat-flat-button [disabled]="operations().length === 0" (click)="stamp()">
            Put into the draft: {{ operations().length }} {{ operations().length === 1 ? 'segment' : 'segments' }}
          </button>
        }
      </ng-container>
      <div class="cells">
        <div class="cell">
          <span class="label">Recipes of the estate</span>
          <ul>
            @for (recipe of recipes(); track recipe.id) {
              <li>
                <button
                  type="button"
                  class="name"
                  [attr.aria-pressed]="chosen()?.id === recipe.id"
                  (click)="open(recipe)"
                >
                  {{ recipe.name }} <span class="mono soft">{{ recipe.vlan }}</span>
                </button>
              </li>
            } @empty {
              <li class="soft">None yet.</li>
            }
          </ul>
          <button mat-button (click)="open(null)">New recipe</button>
        </div>
        @for (field of fields; track field.key) {
          <il-cell
            [label]="field.label"
            [for]="'recipe-' + field.key"
            [hint]="field.hint"
            [flaw]="problem()?.of(field.key)"
          >
            <mat-form-field [class.mono-field]="field.mono">
              <input
                matInput
                autocomplete="off"
                [id]="'recipe-' + field.key"
                [ngModel]="text()[field.key]"
                (ngModelChange)="type(field.key, $event)"
              />
            </mat-form-field>
          </il-cell>
        }
        <div class="cell acts">
          @if (problem(); as now) {
            @if (now.flaws.length === 0) {
              <p class="flaw" role="alert">{{ now.message }}</p>
            }
          }
        </div>
        @if (chosen()) {
          <div class="cell full">
            <span class="label">Stamp into sites</span>
            <table class="grid">
              <thead>
                <tr>
                  <th><span class="visually-hidden">Choose</span></th>
                  <th>Site</th>
                  <th>Subnet</th>
                  <th>Segment would be</th>
                </tr>
              </thead>
              <tbody>
                @for (site of sites(); track site.id) {
                  <tr>
                    <td>
                      <mat-checkbox
                        [checked]="picked().has(site.id)"
                        (change)="pick(site.id)"
                        [aria-label]="'Stamp into ' + site.name"
                      />
                    </td>
                    <td>{{ site.name }}</td>
                    <td class="mono">{{ stampOf(site.id)?.subnet ?? '' }}</td>
                    <td [class.bad]="stampOf(site.id)?.does === 'refused'">
                      @if (stampOf(site.id); as stamp) {
                        {{ stamp.does === 'refused' ? stamp.flaws[0]?.message : does[stamp.does] }}
                      }
                    </td>
                  </tr>
                }
              </tbody>
            </table>
          </div>
        }
      </div>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    ul {
      margin: 0;
      padding: 0;
      list-style: none;
    }
    .name {
      all: unset;
      cursor: pointer;
      display: block;
      width: 100%;
      line-height: 24px;
    }
    .name[aria-pressed='true'] {
      font-weight: 600;
      box-shadow: inset 3px 0 0 var(--iron);
      padding-left: 8px;
    }
    .name:focus-visible {
      outline: 2px solid var(--iron);
    }
    .acts {
      display: flex;
      align-items: end;
      flex-wrap: wrap;
      gap: 6px;
    }
    table {
      margin-bottom: 8px;
    }
  `,
})
export class RecipesSheet {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  private readonly estate = inject(EstateStore);
  readonly closed = output<void>();
  protected readonly does = DOES;
  protected readonly fields = [
    { key: 'name', label: 'Name', hint: 'Its segments are called so', mono: false },
    { key: 'vlan', label: 'VLAN ID', hint: 'The same at every site', mono: true },
    { key: 'length', label: 'Bits of each subnet', hint: '16 to 30', mono: true },
    { key: 'parent', label: 'Taken from', hint: 'Empty: each site’s own block', mono: true },
    { key: 'leaseHours', label: 'Lease, in hours', hint: 'Empty: nobody gives addresses', mono: true },
    { key: 'domain', label: 'Domain name', hint: '', mono: true },
    { key: 'purpose', label: 'Purpose', hint: '', mono: false },
  ] as const;
  protected readonly recipes = computed(() => this.store.data()?.estate.recipes ?? []);
  private readonly chosenId = signal<string | null>(null);
  protected readonly chosen = computed(() => this.recipes().find((recipe) => recipe.id === this.chosenId()) ?? null);
  protected readonly text = signal(textOf(null));
  protected readonly problem = signal<Problem | null>(null);
  protected readonly picked = signal<ReadonlySet<string>>(new Set());
  private readonly stamps = signal<readonly RecipeStamp[]>([]);
  protected readonly sites = computed(() => this.estate.estate()?.sites ?? []);
  protected readonly operations = computed(() =>
    this.stamps()
      .filter((stamp) => this.picked().has(stamp.siteId))
      .flatMap((stamp) => stamp.operations),
  );

  protected type(key: string, value: string): void {
    this.text.update((text) => ({ ...text, [key]: value }));
  }

  protected open(recipe: Recipe | null): void {
    this.chosenId.set(recipe?.id ?? null);
    this.text.set(textOf(recipe));
    this.problem.set(null);
    this.picked.set(new Set(this.sites().map((site) => site.id)));
    void this.ask();
  }

  protected stampOf = (siteId: string): RecipeStamp | undefined =>
    this.stamps().find((stamp) => stamp.siteId === siteId);

  protected pick(siteId: string): void {
    const next = new Set(this.picked());
    if (!next.delete(siteId)) next.add(siteId);
    this.picked.set(next);
    void this.ask();
  }

  protected async keep(): Promise<void> {
    const old = this.chosen();
    const recipe = recipeOf(old?.id ?? crypto.randomUUID(), this.text());
    await attempt(null, this.problem, async () => {
      if (!old) await this.store.edit([{ type: 'recipe.add', recipe }]);
      else {
        const { id: _old, ...from } = old;
        const { id: _new, ...to } = recipe;
        await this.store.edit([{ type: 'recipe.set', recipeId: old.id, from, to }]);
      }
      this.open(recipe);
    });
  }

  protected async remove(): Promise<void> {
    await attempt(null, this.problem, async () => {
      await this.store.edit([{ type: 'recipe.remove', recipeId: this.chosen()!.id }]);
      this.open(null);
    });
  }

  protected async stamp(): Promise<void> {
    await attempt(null, this.problem, async () => {
      await this.store.edit(this.operations());
      await this.ask();
    });
  }

  /** Asks what stamping would do; nothing is changed by it. */
  private async ask(): Promise<void> {
    const [draft, recipe] = [this.store.draft(), this.chosenId()];
    const siteIds = [...this.picked()];
    if (!draft || !recipe || siteIds.length === 0) return this.stamps.set([]);
    const url = `/api/drafts/${draft.id}/recipes/${recipe}/stamp`;
    await attempt(null, this.problem, async () =>
      this.stamps.set(await firstValueFrom(this.http.post<RecipeStamp[]>(url, { siteIds }))),
    );
  }
}

function textOf(recipe: Recipe | null) {
  return {
    name: recipe?.name ?? '',
    vlan: recipe ? String(recipe.vlan) : '',
    length: recipe ? String(recipe.length) : '24',
    parent: recipe?.parent ?? '',
    leaseHours: recipe ? (recipe.leaseSeconds === null ? '' : String(recipe.leaseSeconds / 3600)) : '8',
    domain: recipe?.domain ?? '',
    purpose: recipe?.purpose ?? '',
  };
}

function recipeOf(id: string, text: ReturnType<typeof textOf>): Recipe {
  return {
    id,
    name: text.name.trim(),
    vlan: /^\d+$/.test(text.vlan.trim()) ? Number(text.vlan) : 0,
    length: /^\d+$/.test(text.length.trim()) ? Number(text.length) : 0,
    parent: text.parent.trim() || null,
    leaseSeconds: text.leaseHours.trim() === '' ? null : Math.round(Number(text.leaseHours) * 3600) || 0,
    domain: text.domain.trim(),
    purpose: text.purpose.trim(),
  };
}
