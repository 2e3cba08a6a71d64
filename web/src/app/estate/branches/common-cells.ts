import { Component, computed, inject, input, output } from '@angular/core';
import { EstateStore } from '../../shell/estate-store';
import { SharedStore } from '../../shell/shared-store';
import { ChoiceCell, type Choice } from '../../ui/choice-cell';
import { choicePlaces, chosenAt } from '../../ui/choice-places';
import { TextCell } from '../../ui/text-cell';
import type { CommonText, FlawOf } from './branches-text';

const LENGTHS: readonly Choice[] = [24, 25, 26, 27, 28, 29].map((length) => ({
  value: length,
  label: `/${length}: ${2 ** (32 - length) - 2} addresses`,
}));

/** What branches have in common: segments and hubs, then how they are steered and numbered. */
@Component({
  selector: 'il-common-cells',
  imports: [ChoiceCell, TextCell],
  template: `
    @let all = text();
    @if (part() === 'joined') {
      <il-choice-cell
        label="Segments by recipe"
        for="branch-recipes"
        [several]="true"
        [example]="recipes().length === 0 ? 'there is no recipe yet' : 'management alone'"
        [options]="recipes()"
        [flaw]="flawOf()('segments')"
        [value]="all.recipeIds"
        (chosen)="said.emit({ recipeIds: $event })"
      />
      @for (place of hubs(); track $index) {
        <il-choice-cell
          [label]="$index === 0 ? 'Joined by the hub' : 'If that is gone, by'"
          [for]="'branch-hub-' + $index"
          [options]="place.options"
          [value]="place.value"
          [example]="$index === 0 ? 'not joined' : 'nothing'"
          [flaw]="$index === 0 ? flawOf()('hubs') : ''"
          (chosen)="said.emit({ hubs: hubsWith($index, $event) })"
        />
      }
      @if (all.hubs.length > 0) {
        <il-choice-cell
          label="The internet"
          for="branch-leaves"
          [options]="leavings"
          [value]="all.leaves"
          (chosen)="said.emit({ leaves: $event })"
        />
        <il-text-cell
          label="Others reach"
          for="branch-shares"
          example="every segment not kept apart"
          hint="Names of segments, parted by commas"
          [flaw]="flawOf()('shares')"
          [value]="all.shares"
          (typed)="said.emit({ shares: $event })"
        />
      }
    } @else {
      <il-choice-cell
        label="Steered like"
        for="branch-like"
        [options]="sites()"
        [value]="all.like"
        hint="Its courses, and how it uses its uplinks together"
        (chosen)="said.emit({ like: $event })"
      />
      <il-text-cell
        label="Router addresses from"
        for="branch-pool"
        example="room of its own in the address plan"
        hint="A prefix such as 10.250.0.0/16, filled in order"
        [mono]="true"
        [flaw]="flawOf()('pool')"
        [value]="all.pool"
        (typed)="said.emit({ pool: $event })"
      />
      @if (all.pool.trim() !== '') {
        <il-choice-cell
          label="Each gets"
          for="branch-length"
          [options]="lengths"
          [value]="all.length"
          (chosen)="said.emit({ length: $event })"
        />
      }
    }
  `,
  styles: ':host { display: contents; }',
})
export class CommonCells {
  private readonly estate = inject(EstateStore);
  private readonly shared = inject(SharedStore).follow();
  readonly part = input.required<'joined' | 'steered'>();
  readonly text = input.required<CommonText>();
  readonly flawOf = input.required<FlawOf>();
  readonly said = output<Partial<CommonText>>();
  protected readonly lengths = LENGTHS;
  protected readonly leavings: readonly Choice[] = [
    { value: 'here', label: 'by uplinks of its own' },
    { value: 'hub', label: 'by its hub' },
  ];
  protected readonly recipes = computed((): readonly Choice[] =>
    (this.shared.estate()?.recipes ?? []).map(({ id, name, vlan }) => ({ value: id, label: `${name}, VLAN ${vlan}` })),
  );
  protected readonly hubs = computed(() => {
    const names = new Map(this.estate.siteChoices().map(({ value, label }) => [value, label]));
    const all = (this.shared.estate()?.members ?? []).flatMap(({ role, siteId }): Choice[] =>
      role === 'hub' ? [{ value: siteId, label: names.get(siteId) ?? 'a site' }] : [],
    );
    const places = choicePlaces(this.text().hubs, all);
    return places.length === 0 ? [{ value: null, options: [] }] : places.map((place, i) => withNone(place, i));
  });
  protected readonly sites = computed((): readonly Choice[] => [
    { value: null, label: 'as usual' },
    ...this.estate.siteChoices(),
  ]);

  protected hubsWith = (at: number, siteId: string | null): readonly string[] => chosenAt(this.text().hubs, at, siteId);
}

/** The first place may be left empty as well: then they are not joined. */
const withNone = (place: { readonly value: unknown; readonly options: readonly Choice[] }, at: number) =>
  at === 0 ? { ...place, options: [{ value: null, label: 'not joined' }, ...place.options] } : place;
