import { Component, computed, inject, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { BANDS, sheetFor } from '@iron-lattice/core/hardware';
import { MOST_HOPS, USUAL_MESH, type MeshSite } from '@iron-lattice/core/intent';
import { SessionStore } from '../session/session-store';
import { EditForm } from '../shell/edit-form';
import { SiteStore } from '../shell/site-store';
import { Turns } from '../shell/turns';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { Sheet } from '../ui/sheet';
import { siteEdit } from './mesh-edit';
import { WHEN } from './mesh-rows';

interface Said {
  readonly id: string;
  readonly mesh: MeshSite | null;
}
type SiteText = Omit<MeshSite, 'key'>;

/** What a site says of APs without a cable, once for all. */
@Component({
  selector: 'il-mesh-site-sheet',
  imports: [MatButtonModule, ChoiceCell, Sheet],
  template: `
    <il-sheet heading="By radio, all APs" [note]="note()" (closed)="closed.emit()">
      @if (session.mayChange() && site()?.mesh && !site()?.meshAps) {
        <button actions mat-stroked-button type="button" (click)="forget()">As usual again</button>
      }
      <div class="cells">
        <il-choice-cell
          label="APs hang on others by radio"
          for="mesh-site-when"
          [disabled]="!session.mayChange()"
          [options]="whens"
          [value]="text().when"
          (chosen)="set({ when: $event })"
        />
        <il-choice-cell
          label="Band, GHz"
          for="mesh-site-band"
          hint="An AP without it takes the next lower"
          [disabled]="!session.mayChange()"
          [options]="bands()"
          [value]="text().band"
          (chosen)="set({ band: $event })"
        />
        <il-choice-cell
          label="Most hops to a cable"
          for="mesh-site-hops"
          hint="Each hop sends every frame once more: about half is left after two"
          [disabled]="!session.mayChange()"
          [options]="hops"
          [value]="text().hops"
          (chosen)="set({ hops: $event })"
        />
        @if (message(); as text) {
          <p class="cell full flaw" role="alert">{{ text }}</p>
        }
      </div>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class MeshSiteSheet {
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly closed = output<void>();
  private readonly turns = new Turns();
  protected readonly site = this.store.site;
  protected readonly whens: readonly Choice[] = (['never', 'fallback'] as const).map((when) => ({
    value: when,
    label: WHEN[when],
  }));
  protected readonly hops: readonly Choice[] = Array.from({ length: MOST_HOPS }, (_, i) => ({
    value: i + 1,
    label: `${i + 1}`,
  }));
  protected readonly form = new EditForm<Said, SiteText>({
    kept: () => {
      const site = this.site();
      return site ? { id: site.id, mesh: site.mesh ?? null } : null;
    },
    idOf: ({ id }) => id,
    textOf: (said) => {
      const { when, band, hops } = said?.mesh ?? USUAL_MESH;
      return { when, band, hops };
    },
  });
  protected readonly text = this.form.text;
  protected readonly message = computed(() => this.form.other([]));
  protected readonly bands = computed((): Choice[] => {
    const there = new Set(
      (this.store.data()?.roster ?? []).flatMap((device) => sheetFor(device).radios.map(({ band }) => band)),
    );
    return BANDS.filter((band) => there.has(band) || band === this.text().band).map((value) => ({
      value,
      label: value,
    }));
  });
  protected readonly note = computed(() => {
    const name = this.site()?.name ?? 'this site';
    return `Said once for all APs of ${name}; one may differ in single fields. They prove to each other that they are of this site by a key that is made with the first edit and that nobody types.`;
  });

  protected async set(change: Partial<SiteText>): Promise<void> {
    this.form.put(change);
    await this.turns.take(() =>
      this.form.send(async () => {
        const { operations, secrets } = siteEdit(this.site()!, change);
        await this.store.edit(operations, secrets);
      }),
    );
  }

  protected async forget(): Promise<void> {
    await this.turns.take(() =>
      this.form.send(async () => {
        const { id: siteId, mesh: from = null } = this.site()!;
        await this.store.edit([{ type: 'mesh.site', siteId, from, to: null }]);
      }),
    );
  }
}
