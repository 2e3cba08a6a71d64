import { HttpClient } from '@angular/common/http';
import { Component, computed, inject, output, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import type { Recipe } from '@iron-lattice/core/intent';
import type { RecipeStamp } from '@iron-lattice/core/lattice';
import { firstValueFrom } from 'rxjs';
import { EstateStore } from '../../shell/estate-store';
import { attempt } from '../../session/problem';
import { EditForm } from '../../shell/edit-form';
import { SiteStore } from '../../shell/site-store';
import { Cell } from '../../ui/cell';
import { Sheet } from '../../ui/sheet';
import { TextCell } from '../../ui/text-cell';

const DOES = { add: 'added', change: 'changed to follow it', same: 'as it says already', refused: 'refused' } as const;

type RecipeText = Readonly<Record<'name' | 'vlan' | 'length' | 'parent' | 'leaseHours' | 'domain' | 'purpose', string>>;

/** Segment recipes: one segment said once for many sites, each with a subnet of its own, looked at before it is stamped. */
@Component({
  selector: 'il-recipes-sheet',
  imports: [MatButtonModule, MatCheckboxModule, Cell, Sheet, TextCell],
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
        <button mat-stroked-button [disabled]="form.busy() || !form.differs()" (click)="keep()">
          {{ chosen() ? 'Keep the recipe' : 'Add the recipe' }}
        </button>
        @if (chosen()) {
          <button mat-flat-button [disabled]="operations().length === 0" (click)="stamp()">
            Put into the draft: {{ operations().length }} {{ operations().length === 1 ? 'segment' : 'segments' }}
          </button>
        }
      </ng-container>
      <div class="cells">
        <il-cell label="Recipes of the estate">
          <ul>
            @for (recipe of recipes(); track recipe.id) {
              <li>
                <button
                  type="button"
                  class="plain name"
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
        </il-cell>
        @for (field of fields; track field.key) {
          <il-text-cell
            [label]="field.label"
            [for]="'recipe-' + field.key"
            [hint]="field.hint"
            [flaw]="problem()?.of(field.key)"
            [mono]="field.mono"
            [value]="text()[field.key]"
            (typed)="type(field.key, $event)"
          />
        }
        @if (other(); as message) {
          <p class="cell full flaw" role="alert">{{ message }}</p>
        }
        @if (chosen()) {
          <il-cell label="Stamp into sites" size="full">
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
          </il-cell>
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
      display: block;
      width: 100%;
      line-height: 24px;
    }
    .name[aria-pressed='true'] {
      font-weight: 600;
      box-shadow: inset 3px 0 0 var(--iron);
      padding-left: 8px;
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
  protected readonly form = new EditForm<Recipe, RecipeText>({
    kept: () => this.chosen(),
    idOf: ({ id }) => id,
    textOf,
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly other = computed(() => this.form.other(this.fields.map(({ key }) => key)));
  protected readonly picked = signal<ReadonlySet<string>>(new Set());
  private readonly stamps = signal<readonly RecipeStamp[]>([]);
  protected readonly sites = computed(() => this.estate.estate()?.sites ?? []);
  protected readonly operations = computed(() =>
    this.stamps()
      .filter((stamp) => this.picked().has(stamp.siteId))
      .flatMap((stamp) => stamp.operations),
  );

  protected type(key: keyof RecipeText, value: string): void {
    this.form.put({ [key]: value });
  }

  protected open(recipe: Recipe | null): void {
    this.chosenId.set(recipe?.id ?? null);
    this.form.reset();
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
    const { id, ...fields } = recipe;
    const done = await this.form.send(() =>
      this.store.edit([
        old
          ? { type: 'recipe.set', recipeId: id, ...this.form.change(fields, (kept) => kept) }
          : { type: 'recipe.add', recipe },
      ]),
    );
    if (done) this.open(recipe);
  }

  protected async remove(): Promise<void> {
    const { id } = this.chosen()!;
    if (await this.form.send(() => this.store.edit([{ type: 'recipe.remove', recipeId: id }]))) this.open(null);
  }

  protected async stamp(): Promise<void> {
    await this.form.send(async () => {
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

function textOf(recipe: Recipe | null): RecipeText {
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

function recipeOf(id: string, text: RecipeText): Recipe {
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
