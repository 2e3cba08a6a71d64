import { HttpClient } from '@angular/common/http';
import { Component, computed, effect, inject, input, output, signal, untracked } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { SharedAtSite } from '@iron-lattice/core/assess';
import type { Recipe } from '@iron-lattice/core/intent';
import type { RecipeStamp } from '@iron-lattice/core/lattice';
import { firstValueFrom } from 'rxjs';
import { attempt } from '../../session/problem';
import { SessionStore } from '../../session/session-store';
import { EditForm } from '../../shell/edit-form';
import { EstateStore } from '../../shell/estate-store';
import { liveFetch } from '../../shell/live-fetch';
import { SiteStore } from '../../shell/site-store';
import { anewFor } from '../../ui/anew-for';
import { Cell } from '../../ui/cell';
import { counted } from '../../ui/counted';
import type { TableColumn } from '../../ui/data-rows';
import { DataTable } from '../../ui/data-table';
import { Sheet } from '../../ui/sheet';
import { heightInCell } from '../../ui/table-view';
import { TextCell } from '../../ui/text-cell';

const DOES = { add: 'added', change: 'changed to follow it', same: 'as it says already', refused: 'refused' } as const;
/** How long nobody has chosen another site before it is asked what stamping would do, in milliseconds. */
const REST_MS = 150;

type RecipeText = Readonly<Record<'name' | 'vlan' | 'length' | 'parent' | 'leaseHours' | 'domain' | 'purpose', string>>;

/** A site that a recipe may be stamped into. */
interface Target {
  readonly id: string;
  readonly name: string;
  readonly tags: readonly string[];
  readonly stamp: RecipeStamp | undefined;
}

/** A segment recipe, new or there already: one segment said once for many sites, looked at before it is stamped. */
@Component({
  selector: 'il-recipe-sheet',
  imports: [MatButtonModule, Cell, DataTable, Sheet, TextCell],
  template: `
    <il-sheet
      [focusFirst]="recipe() === null"
      [heading]="recipe()?.name ?? 'New recipe'"
      note="Said once for the estate, stamped into many sites, each with its own subnet by rule."
      (closed)="closed.emit()"
    >
      @if (session.mayChange()) {
        <ng-container ngProjectAs="[actions]">
          @if (recipe()) {
            <button mat-button (click)="remove()">Remove</button>
          }
          <button mat-stroked-button [disabled]="form.busy() || !form.differs()" (click)="keep()">
            {{ recipe() ? 'Keep the recipe' : 'Add the recipe' }}
          </button>
          @if (recipe()) {
            <button mat-flat-button [disabled]="form.busy() || operations().length === 0" (click)="stamp()">
              Put into the draft: {{ counted(operations().length, 'segment') }}
            </button>
          }
        </ng-container>
      }
      <div class="cells">
        @for (field of fields; track field.key) {
          <il-text-cell
            [label]="field.label"
            [for]="'recipe-' + field.key"
            [hint]="field.hint"
            [flaw]="problem()?.of(field.key)"
            [mono]="field.mono"
            [readonly]="!session.mayChange()"
            [value]="text()[field.key]"
            (typed)="type(field.key, $event)"
          />
        }
        @if (other(); as message) {
          <p class="cell full flaw" role="alert">{{ message }}</p>
        }
        @if (recipe()) {
          <il-cell label="At each site" size="full" [hint]="hint()">
            <il-data-table
              [style.height.px]="height()"
              label="Sites to stamp it into"
              remember="recipe-sites"
              [rows]="targets()"
              [columns]="columns"
              [key]="key"
              [name]="nameOf"
              [pickable]="session.mayChange()"
              [(picked)]="picked"
            />
          </il-cell>
        }
      </div>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
    il-data-table {
      display: flex;
      margin: 0 -14px;
    }
  `,
})
export class RecipeSheet {
  private readonly http = inject(HttpClient);
  private readonly store = inject(SiteStore);
  private readonly estate = inject(EstateStore);
  protected readonly session = inject(SessionStore);
  /** Null for a new one. */
  readonly recipe = input.required<Recipe | null>();
  readonly closed = output<void>();
  /** Id of the recipe that is in the draft now. */
  readonly kept = output<string>();
  protected readonly counted = counted;
  protected readonly fields = [
    { key: 'name', label: 'Name', hint: 'Its segments are called so', mono: false },
    { key: 'vlan', label: 'VLAN ID', hint: 'The same at every site', mono: true },
    { key: 'length', label: 'Bits of each subnet', hint: '16 to 30', mono: true },
    { key: 'parent', label: 'Taken from', hint: 'Empty: each site’s own block', mono: true },
    { key: 'leaseHours', label: 'Lease, in hours', hint: 'Empty: nobody gives addresses', mono: true },
    { key: 'domain', label: 'Domain name', hint: '', mono: true },
    { key: 'purpose', label: 'What it is for', hint: 'Found by it', mono: false },
  ] as const;
  protected readonly form = new EditForm<Recipe, RecipeText>({
    kept: () => this.recipe(),
    idOf: ({ id }) => id,
    textOf,
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly other = computed(() => this.form.other(this.fields.map(({ key }) => key)));
  private readonly id = computed(() => this.recipe()?.id ?? null);
  protected readonly picked = anewFor<ReadonlySet<string>>(this.id, () => new Set());
  /** Sites that have a segment of it: what is changed of it they can follow. */
  private readonly there = liveFetch({
    of: () => {
      const [draft, id] = [this.store.draft(), this.id()];
      if (!draft || id === null) return undefined;
      return { url: `/api/drafts/${draft.id}/shared/recipe/${id}/sites`, of: [draft.head, draft.edits] };
    },
    fetch: ({ url }) => firstValueFrom(this.http.get<SharedAtSite[]>(url)),
    when: ({ type }) => type === 'site',
    stays: true,
  });
  private readonly stamped = computed(() => new Set((this.there.value() ?? []).map(({ siteId }) => siteId)));
  /** What stamping would do, in the order of the sites. */
  private readonly stamps = signal<ReadonlyMap<string, RecipeStamp>>(new Map());
  private asked = 0;
  protected readonly targets = computed((): readonly Target[] => {
    const [stamps, picked] = [this.stamps(), this.picked()];
    return (this.estate.estate()?.sites ?? []).map(({ id, name, tags }) => ({
      id,
      name,
      tags,
      stamp: picked.has(id) || this.stamped().has(id) ? stamps.get(id) : undefined,
    }));
  });
  protected readonly height = computed(() => heightInCell(this.targets().length));
  protected readonly operations = computed(() =>
    [...this.stamps().values()]
      .filter(({ siteId }) => this.picked().has(siteId))
      .flatMap(({ operations }) => operations),
  );
  protected readonly hint = computed(() =>
    this.picked().size === 0
      ? 'Choose the sites that are to have it; what it would be there is shown before anything is put into the draft.'
      : `${counted(this.picked().size, 'site')} chosen`,
  );
  protected readonly columns: readonly TableColumn<Target>[] = [
    {
      key: 'site',
      title: 'Site',
      text: ({ name }) => name,
      link: ({ id }) => ['/sites', id, 'lattice'],
      width: 130,
      phone: true,
    },
    { key: 'tags', title: 'Tags', text: ({ tags }) => tags.join(', '), width: 100, groups: true },
    { key: 'subnet', title: 'Subnet', text: ({ stamp }) => stamp?.subnet ?? '', width: 120, mono: true, phone: true },
    {
      key: 'does',
      title: 'Segment would be',
      text: ({ stamp }) =>
        !stamp ? '' : stamp.does === 'refused' ? (stamp.flaws[0]?.message ?? 'refused') : DOES[stamp.does],
      tone: ({ stamp }) => (stamp?.does === 'refused' ? 'bad' : stamp?.does === 'same' ? 'soft' : ''),
      width: 220,
      groups: true,
    },
  ];
  protected readonly key = ({ id }: Target): string => id;
  protected readonly nameOf = ({ name }: Target): string => name;

  constructor() {
    const question = computed(() => {
      const [draft, recipe] = [this.store.draft(), this.recipe()];
      const siteIds = [...new Set([...this.picked(), ...this.stamped()])];
      return draft && recipe && siteIds.length > 0
        ? JSON.stringify({
            url: `/api/drafts/${draft.id}/recipes/${recipe.id}/stamp`,
            head: draft.head,
            recipe,
            siteIds,
          })
        : null;
    });
    effect((onCleanup) => {
      const asked = question();
      if (asked === null) return untracked(() => this.stamps.set(new Map()));
      const resting = setTimeout(() => void this.ask(JSON.parse(asked) as { url: string; siteIds: string[] }), REST_MS);
      onCleanup(() => clearTimeout(resting));
    });
  }

  protected type(key: keyof RecipeText, value: string): void {
    this.form.put({ [key]: value });
  }

  protected async keep(): Promise<void> {
    const old = this.recipe();
    const recipe = recipeOf(old?.id ?? crypto.randomUUID(), this.text());
    const { id, ...fields } = recipe;
    const done = await this.form.send(() =>
      this.store.edit([
        old
          ? { type: 'recipe.set', recipeId: id, ...this.form.change(fields, (kept) => kept) }
          : { type: 'recipe.add', recipe },
      ]),
    );
    if (done) this.kept.emit(id);
  }

  protected async remove(): Promise<void> {
    const { id } = this.recipe()!;
    if (await this.form.send(() => this.store.edit([{ type: 'recipe.remove', recipeId: id }]))) this.closed.emit();
  }

  protected async stamp(): Promise<void> {
    await this.form.send(() => this.store.edit(this.operations()));
  }

  /** Asks what stamping would do; nothing is changed by it. An answer that comes after the next question is none. */
  private async ask({ url, siteIds }: { readonly url: string; readonly siteIds: readonly string[] }): Promise<void> {
    const turn = ++this.asked;
    await attempt(null, this.problem, async () => {
      const stamps = await firstValueFrom(this.http.post<RecipeStamp[]>(url, { siteIds }));
      if (turn === this.asked) this.stamps.set(new Map(stamps.map((stamp) => [stamp.siteId, stamp])));
    });
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
