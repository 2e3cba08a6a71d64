import { Component, computed, inject, input, output } from '@angular/core';
import { sheetFor } from '@iron-lattice/core/hardware';
import type { Problem } from '../session/problem';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { counted } from '../ui/counted';
import type { SsidText } from './ssid-text';

type How = 'all' | 'some' | 'tag';

/** Which APs send an SSID: every one that can, those with a tag, or chosen ones of the site in front; over all sites it is told at how many. */
@Component({
  selector: 'il-ssid-senders',
  imports: [Cell, ChoiceCell],
  template: `
    @if (siteId(); as siteId) {
      <il-choice-cell
        label="Sent by"
        for="ssid-senders"
        [options]="hows()"
        [value]="how()"
        [disabled]="!mayChange()"
        [hint]="elsewhere()"
        (chosen)="choose($event)"
      />
      @if (tag() !== null) {
        <il-choice-cell
          label="Tag of the APs here"
          for="ssid-ap-tag"
          [options]="tagChoices()"
          [value]="tag()"
          [disabled]="!mayChange()"
          [flaw]="problem()?.of('aps')"
          hint="An AP that gets it later is found, with a mend"
          (chosen)="byTag($event)"
        />
      } @else if (chosen(); as ids) {
        <il-choice-cell
          label="APs here that send it"
          for="ssid-aps"
          size="wide"
          [several]="true"
          [options]="aps()"
          [value]="ids"
          [disabled]="!mayChange()"
          [flaw]="ids.length === 0 ? 'Choose an AP at least.' : problem()?.of('aps')"
          (chosen)="set($event)"
        />
      }
    } @else if (sites() > 0) {
      <il-cell label="Sent by">
        <div class="value">every AP that can, but for chosen ones at {{ counted(sites(), 'site') }}</div>
      </il-cell>
    }
  `,
  styles: ':host { display: contents; }',
})
export class SsidSenders {
  private readonly store = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  readonly text = input.required<SsidText>();
  readonly problem = input.required<Problem | null>();
  readonly mayChange = input.required<boolean>();
  readonly changed = output<Partial<SsidText>>();
  protected readonly counted = counted;
  protected readonly hows = computed((): readonly Choice[] => [
    { value: 'all', label: 'every AP that can' },
    { value: 'some', label: 'chosen APs' },
    ...(this.tags().length > 0 ? [{ value: 'tag', label: 'APs with a tag' }] : []),
  ]);
  protected readonly siteId = computed(() => (this.shared.atEstate() ? null : this.store.siteId()));
  /** APs that are chosen at the site in front; null: every one sends it. */
  protected readonly chosen = computed(() => this.text().aps[this.siteId() ?? ''] ?? null);
  /** The tag by which they were chosen; null: one by one, or not at all. */
  protected readonly tag = computed(() => this.text().apTags[this.siteId() ?? ''] ?? null);
  protected readonly how = computed((): How => (this.tag() !== null ? 'tag' : this.chosen() ? 'some' : 'all'));
  /** Tags by AP that is ours here. */
  private readonly apTags = computed(() => {
    const tags = new Map(this.store.devices().map((device) => [device.id, device.tags]));
    return new Map(this.aps().map(({ value }) => [value as string, tags.get(value as string) ?? []]));
  });
  private readonly tags = computed(() => [...new Set([...this.apTags().values()].flat())].sort());
  private readonly tagged = (tag: string): readonly string[] =>
    [...this.apTags()].flatMap(([id, tags]) => (tags.includes(tag) ? [id] : []));
  protected readonly tagChoices = computed((): Choice[] =>
    [...new Set([...this.tags(), ...(this.tag() === null ? [] : [this.tag()!])])].map((tag) => ({
      value: tag,
      label: `${tag}: ${counted(this.tagged(tag).length, 'AP')}`,
    })),
  );
  protected readonly sites = computed(() => Object.keys(this.text().aps).length);
  protected readonly aps = computed((): Choice[] =>
    (this.store.data()?.roster ?? [])
      .filter((device) => sheetFor(device).kind === 'ap')
      .map(({ id, name }) => ({ value: id, label: name })),
  );
  protected readonly elsewhere = computed(() => {
    const others = Object.keys(this.text().aps).filter((id) => id !== this.siteId()).length;
    return others === 0
      ? 'Of those here; other sites as before'
      : `Chosen ones at ${counted(others, 'other site')} too`;
  });

  protected choose(how: How): void {
    if (how === 'tag') return this.byTag(this.fitting());
    const all = this.aps().map(({ value }) => value as string);
    this.emit(how === 'some' ? (this.chosen() ?? all) : null, null);
  }

  /** The tag whose APs are most like those that send it now. */
  private fitting(): string {
    const now = this.chosen() ?? [...this.apTags().keys()];
    const apart = (tag: string): number => {
      const tagged = this.tagged(tag);
      return now.filter((id) => !tagged.includes(id)).length + tagged.filter((id) => !now.includes(id)).length;
    };
    return [...this.tags()].sort((a, b) => apart(a) - apart(b))[0]!;
  }

  /** The APs that have a tag now. */
  protected byTag(tag: string): void {
    this.emit(this.tagged(tag), tag);
  }

  private emit(ids: readonly string[] | null, tag: string | null): void {
    const here = this.siteId()!;
    const { [here]: _aps, ...aps } = this.text().aps;
    const { [here]: _tag, ...apTags } = this.text().apTags;
    this.changed.emit({
      aps: ids ? { ...aps, [here]: ids } : aps,
      apTags: tag === null ? apTags : { ...apTags, [here]: tag },
    });
  }

  protected set(ids: readonly string[]): void {
    this.emit(ids, null);
  }
}
