import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { EVERYWHERE, MOST_REACHED, type SharedReach } from '@iron-lattice/core/intent';
import { anewFor } from '../ui/anew-for';
import { ChoiceCell } from '../ui/choice-cell';
import { counted } from '../ui/counted';
import { TokenField, type TokenSource } from '../ui/token-field';
import { EstateStore } from './estate-store';
import { SiteStore } from './site-store';

type How = 'estate' | 'here' | 'some' | 'tag';

/** A cell in which is chosen where something shared applies: this site, some sites, those with a tag, or the whole estate. */
@Component({
  selector: 'il-reach-cell',
  imports: [MatButtonModule, ChoiceCell, TokenField],
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
    @if (how() === 'tag') {
      <il-choice-cell
        label="Tag of the sites"
        [for]="for() + '-tag'"
        [options]="tagChoices()"
        [value]="tag()"
        [disabled]="disabled()"
        [hint]="tag() === null ? 'Choose one' : 'A site that gets it later is found there, with a mend'"
        example="tag…"
        (chosen)="byTag($event)"
      >
        @if (sinceThen(); as more) {
          <p class="caution">
            {{ more }}
            <button mat-button type="button" [disabled]="disabled()" (click)="byTag(tag())">Follow the tag</button>
          </p>
        }
      </il-choice-cell>
    }
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

  /** The tag that its sites were chosen by. */
  protected readonly tag = computed(() => {
    const reach = this.reach();
    return reach.kind === 'sites' ? (reach.tag ?? null) : null;
  });
  protected readonly how = anewFor(
    () => `${this.of()} ${this.store.siteId()} ${this.reach().kind} ${this.tag() !== null}`,
    (): How => {
      const reach = this.reach();
      if (reach.kind === 'estate') return 'estate';
      if (reach.tag) return 'tag';
      return reach.siteIds.length === 1 && reach.siteIds[0] === this.store.siteId() ? 'here' : 'some';
    },
  );
  protected readonly options = computed(() => [
    ...(this.store.siteId() === null ? [] : [{ value: 'here', label: 'this site' }]),
    { value: 'some', label: 'some sites' },
    ...(this.tags().length > 0 ? [{ value: 'tag', label: 'sites with a tag' }] : []),
    { value: 'estate', label: 'the whole estate' },
  ]);
  private readonly sites = computed(() => this.estate.estate()?.sites ?? []);
  private readonly tags = computed(() => {
    const chosen = this.tag();
    return [...new Set([...this.sites().flatMap(({ tags }) => tags), ...(chosen === null ? [] : [chosen])])].sort();
  });
  private readonly tagged = (tag: string): readonly string[] =>
    this.sites().flatMap(({ id, tags }) => (tags.includes(tag) ? [id] : []));
  protected readonly tagChoices = computed(() =>
    this.tags().map((tag) => ({ value: tag, label: `${tag}: ${counted(this.tagged(tag).length, 'site')}` })),
  );
  /** How many sites got the tag, or lost it, since they were chosen by it; null: none. */
  protected readonly sinceThen = computed(() => {
    const [reach, tag] = [this.reach(), this.tag()];
    if (tag === null || reach.kind === 'estate') return null;
    const [now, then] = [this.tagged(tag), reach.siteIds];
    const more = now.filter((id) => !then.includes(id)).length;
    const fewer = then.filter((id) => !now.includes(id)).length;
    const words = [
      ...(more > 0 ? [`${counted(more, 'site')} more ${more === 1 ? 'has' : 'have'} it by now.`] : []),
      ...(fewer > 0 ? [`${counted(fewer, 'site')} here ${fewer === 1 ? 'has' : 'have'} it no more.`] : []),
    ];
    return words.length > 0 ? words.join(' ') : null;
  });
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
    if (this.how() === 'tag') return `${counted(reach.siteIds.length, 'site')}`;
    return this.how() === 'some' ? `${counted(reach.siteIds.length, 'site')}; ${MOST_REACHED} at most` : '';
  });
  protected readonly flaw = computed(() => {
    const reach = this.reach();
    if (reach.kind === 'estate') return '';
    if (reach.siteIds.length === 0) return 'Choose at least one site.';
    return reach.siteIds.length > MOST_REACHED ? `${MOST_REACHED} sites at most: choose the whole estate.` : '';
  });

  protected choose(how: How): void {
    this.how.set(how);
    const [reach, here] = [this.reach(), this.store.siteId()];
    if (how === 'estate') this.chosen.emit(EVERYWHERE);
    else if (how === 'here') this.chosen.emit({ kind: 'sites', siteIds: [here!] });
    else if (how === 'tag') this.fit();
    else if (reach.kind === 'estate') this.chosen.emit({ kind: 'sites', siteIds: here === null ? [] : [here] });
    else this.chosen.emit({ kind: 'sites', siteIds: reach.siteIds });
  }

  /** The tag that just the sites have which it reaches, if there is one; else people choose. */
  private fit(): void {
    const reach = this.reach();
    const ids = reach.kind === 'estate' ? this.sites().map(({ id }) => id) : reach.siteIds;
    const tag = this.tags().find((each) => sameIds(this.tagged(each), ids));
    if (tag !== undefined) this.byTag(tag);
  }

  /** The sites that have a tag now. */
  protected byTag(tag: unknown): void {
    this.chosen.emit({ kind: 'sites', siteIds: this.tagged(tag as string), tag: tag as string });
  }

  protected put(names: string): void {
    const ids = this.source()
      .read(names)
      .flatMap(({ text }) => this.byName().get(text.toLowerCase()) ?? []);
    this.chosen.emit({ kind: 'sites', siteIds: [...new Set(ids)] });
  }
}

const sameIds = (a: readonly string[], b: readonly string[]): boolean =>
  a.length === b.length && a.every((id) => b.includes(id));
