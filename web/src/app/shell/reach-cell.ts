import { Component, computed, inject, input, output } from '@angular/core';
import { EVERYWHERE, type SharedReach } from '@iron-lattice/core/intent';
import { anewFor } from '../ui/anew-for';
import { ChoiceCell } from '../ui/choice-cell';
import { counted } from '../ui/counted';
import { TokenField, type TokenSource } from '../ui/token-field';
import { EstateStore } from './estate-store';
import { SiteStore } from './site-store';

/** Most sites that are chosen one by one. */
const MOST_SITES = 500;

type How = 'estate' | 'here' | 'some';

/** A cell in which is chosen where something shared applies: this site, some sites, or the whole estate. */
@Component({
  selector: 'il-reach-cell',
  imports: [ChoiceCell, TokenField],
  template: `
    <il-choice-cell
      label="Reaches"
      [for]="for()"
      size="wide"
      [options]="options()"
      [value]="how()"
      [disabled]="disabled()"
      [hint]="hint()"
      [flaw]="flaw()"
      (chosen)="choose($event)"
    >
      @if (how() === 'some') {
        <il-token-field
          label="Sites it reaches"
          [for]="for() + '-sites'"
          placeholder="Site…"
          [value]="names()"
          [source]="source()"
          [readonly]="disabled()"
          (typed)="put($event)"
        />
      }
    </il-choice-cell>
  `,
  styles: `
    :host {
      display: contents;
    }
    il-token-field {
      margin-top: 4px;
      max-height: 84px;
      overflow-y: auto;
    }
  `,
})
export class ReachCell {
  private readonly store = inject(SiteStore);
  private readonly estate = inject(EstateStore);
  /** Id of the field. */
  readonly for = input.required<string>();
  readonly reach = input.required<SharedReach>();
  readonly disabled = input(false);
  /** Of which thing it is: whose choice is opened anew. */
  readonly of = input<string | null>(null);
  readonly chosen = output<SharedReach>();

  protected readonly how = anewFor(
    () => `${this.of()} ${this.store.siteId()} ${this.reach().kind}`,
    (): How => {
      const reach = this.reach();
      if (reach.kind === 'estate') return 'estate';
      return reach.siteIds.length === 1 && reach.siteIds[0] === this.store.siteId() ? 'here' : 'some';
    },
  );
  protected readonly options = computed(() => [
    ...(this.store.siteId() === null ? [] : [{ value: 'here', label: 'this site' }]),
    { value: 'some', label: 'some sites' },
    { value: 'estate', label: 'the whole estate' },
  ]);
  private readonly sites = computed(() => this.estate.estate()?.sites ?? []);
  private readonly byId = computed(() => new Map(this.sites().map(({ id, name }) => [id, name])));
  private readonly byName = computed(() => new Map(this.sites().map(({ id, name }) => [name.toLowerCase(), id])));
  protected readonly names = computed(() => {
    const reach = this.reach();
    return reach.kind === 'estate' ? '' : reach.siteIds.map((id) => this.byId().get(id) ?? id).join('\n');
  });
  protected readonly source = computed((): TokenSource => ({
    read: (text) =>
      text
        .split(/[\n,;]/)
        .map((name) => name.trim())
        .filter((name) => name !== '')
        .map((name) => {
          const id = this.byName().get(name.toLowerCase());
          return { text: name, label: id === undefined ? name : this.byId().get(id)!, kind: '', bad: id === undefined };
        }),
    join: (tokens) => tokens.map(({ text }) => text).join('\n'),
    options: this.sites().map(({ name }) => ({ text: name, label: name, kind: '' })),
    separator: ',',
  }));
  protected readonly hint = computed(() => {
    const reach = this.reach();
    if (reach.kind === 'estate') return `${counted(this.sites().length, 'site')}, and those that come`;
    return this.how() === 'some' ? `${counted(reach.siteIds.length, 'site')}; ${MOST_SITES} at most` : '';
  });
  protected readonly flaw = computed(() => {
    const reach = this.reach();
    if (reach.kind === 'estate') return '';
    if (reach.siteIds.length === 0) return 'Choose at least one site.';
    return reach.siteIds.length > MOST_SITES ? `${MOST_SITES} sites at most: choose the whole estate.` : '';
  });

  protected choose(how: How): void {
    this.how.set(how);
    const [reach, here] = [this.reach(), this.store.siteId()];
    if (how === 'estate') this.chosen.emit(EVERYWHERE);
    else if (how === 'here') this.chosen.emit({ kind: 'sites', siteIds: [here!] });
    else if (reach.kind === 'estate') this.chosen.emit({ kind: 'sites', siteIds: here === null ? [] : [here] });
  }

  protected put(names: string): void {
    const ids = this.source()
      .read(names)
      .flatMap(({ text }) => this.byName().get(text.toLowerCase()) ?? []);
    this.chosen.emit({ kind: 'sites', siteIds: [...new Set(ids)] });
  }
}
