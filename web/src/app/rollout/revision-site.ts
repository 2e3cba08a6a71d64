import { Component, computed, input, resource } from '@angular/core';
import type { SiteComparison } from '@iron-lattice/core/assess';
import { counted } from '../ui/counted';
import { DifferenceLines } from '../ui/difference-lines';
import { ObjectList } from './object-list';

/** One site in two revisions, or two drafts: its objects, and what its devices of today are told in each. */
@Component({
  selector: 'il-revision-site',
  imports: [DifferenceLines, ObjectList],
  template: `
    @if (compared.hasValue()) {
      <il-object-list [objects]="compared.value().objects" />
      @for (group of groups(); track group.told) {
        <p class="head">
          <b>{{ counted(group.names.length, 'device') }}</b>&ngsp;<span class="mono soft">{{
            group.names.join(', ')
          }}</span>
        </p>
        <il-difference-lines [lines]="group.lines" />
      } @empty {
        <p class="soft head">No device of this site hears anything else.</p>
      }
    } @else if (compared.error(); as problem) {
      <p class="bad head" role="alert">{{ $any(problem).message }}</p>
    } @else {
      <p class="soft head" role="status">Being compared…</p>
    }
  `,
  styles: `
    .head {
      padding: 4px 14px;
      margin: 0;
      overflow-wrap: anywhere;
    }
  `,
})
export class RevisionSite {
  /** Which two states of which site: what is of another is compared anew. */
  readonly of = input.required<string>();
  readonly load = input.required<() => Promise<SiteComparison>>();
  protected readonly counted = counted;
  protected readonly compared = resource({
    params: () => this.of(),
    loader: () => this.load()(),
  });
  /** Devices that hear the same, together. */
  protected readonly groups = computed(() => {
    if (!this.compared.hasValue()) return [];
    const { changes, differences } = this.compared.value();
    return Object.entries(differences).map(([told, { lines }]) => ({
      told,
      lines,
      names: changes.filter((change) => change.told === told).map(({ name }) => name),
    }));
  });
}
