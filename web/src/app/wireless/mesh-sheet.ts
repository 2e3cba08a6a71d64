import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { BANDS, sheetFor } from '@iron-lattice/core/hardware';
import { MOST_HOPS, type MeshEntry, type Operation } from '@iron-lattice/core/intent';
import { SessionStore } from '../session/session-store';
import { EditForm } from '../shell/edit-form';
import { inCommon, pickedRows, type PickedRows } from '../shell/picked-rows';
import { SiteStore } from '../shell/site-store';
import { Turns } from '../shell/turns';
import { ChoiceCell, DIFFERS, type Choice } from '../ui/choice-cell';
import { Sheet } from '../ui/sheet';
import { withSite } from './mesh-edit';
import { ownWords, WHEN, type MeshRow } from './mesh-rows';

interface MeshText {
  readonly when: unknown;
  readonly band: unknown;
  readonly hops: unknown;
  readonly parents: readonly string[];
}

/** How one AP hangs by radio, or many at once; goes into the draft as it is chosen. */
@Component({
  selector: 'il-mesh-sheet',
  imports: [MatButtonModule, ChoiceCell, Sheet],
  template: `
    <il-sheet [heading]="heading()" [note]="note()" (closed)="closed.emit()">
      @if (session.mayChange() && said()) {
        <button actions mat-stroked-button type="button" (click)="make(forgotten)">As the site says again</button>
      }
      <div class="cells">
        <il-choice-cell
          label="Hangs on another by radio"
          for="mesh-when"
          [hint]="whenHint()"
          [flaw]="problem()?.of('when')"
          [disabled]="!session.mayChange()"
          [options]="whens"
          [value]="text().when"
          (chosen)="set({ when: $event })"
        />
        <il-choice-cell
          label="On which"
          for="mesh-parents"
          size="wide"
          example="any AP of the site"
          [several]="true"
          [flaw]="problem()?.of('parents')"
          [disabled]="!session.mayChange()"
          [options]="parents()"
          [value]="text().parents"
          (chosen)="setParents($event)"
        />
        <il-choice-cell
          label="Band, GHz"
          for="mesh-band"
          [flaw]="problem()?.of('band')"
          [disabled]="!session.mayChange()"
          [options]="bands()"
          [value]="text().band"
          (chosen)="set({ band: $event })"
        />
        <il-choice-cell
          label="Most hops to a cable"
          for="mesh-hops"
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
export class MeshSheet {
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly rows = input.required<readonly MeshRow[]>();
  readonly closed = output<void>();
  private readonly turns = new Turns();
  protected readonly forgotten = (): null => null;
  protected readonly whens: readonly Choice[] = (['never', 'fallback', 'always'] as const).map((when) => ({
    value: when,
    label: WHEN[when],
  }));
  protected readonly hops: readonly Choice[] = Array.from({ length: MOST_HOPS }, (_, i) => ({
    value: i + 1,
    label: `${i + 1}`,
  }));
  protected readonly form = new EditForm<PickedRows<MeshRow>, MeshText>({
    kept: pickedRows(this.rows, ({ key }) => key),
    idOf: ({ key }) => key,
    textOf: (picked) => textOf(picked?.rows ?? []),
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly message = computed(() => this.form.other(['when', 'band', 'parents']));
  protected readonly said = computed(() => this.rows().some((row) => this.entryOf(row) !== null));
  protected readonly heading = computed(() => {
    const [first, ...more] = this.rows();
    if (!first) return 'No AP';
    return more.length === 0 ? `${first.device.name} by radio` : `${more.length + 1} APs by radio`;
  });
  protected readonly note = computed(() => {
    const [first, ...more] = this.rows();
    if (!first || more.length > 0) return 'What is chosen here is given to all of them.';
    const own = ownWords(first);
    return own ? `Differs from the site in ${own}` : 'As the site says';
  });
  protected readonly whenHint = computed(() => {
    const [first, ...more] = this.rows();
    if (!first || more.length > 0) return '';
    const { hang, loose, setting } = first;
    if (setting.when === 'always' && loose) return 'Nobody takes it: it would stay on its cable, if it has one';
    return hang?.way ? `All behind it would share ${Math.round(hang.way)} Mb/s` : '';
  });
  protected readonly bands = computed((): Choice[] => {
    const common = BANDS.filter((band) =>
      this.rows().every(({ device }) => sheetFor(device).radios.some((radio) => radio.band === band)),
    );
    return common.map((value) => ({ value, label: value }));
  });
  protected readonly parents = computed((): Choice[] => {
    const mine = new Set(this.rows().map(({ key }) => key));
    return (this.store.data()?.roster ?? [])
      .filter((device) => sheetFor(device).kind === 'ap' && !mine.has(device.id))
      .map(({ id, name }) => ({ value: id, label: name }));
  });

  protected set(change: MeshEntry & Partial<MeshText>): Promise<void> {
    this.form.put(change);
    return this.make((entry) => ({ ...entry, ...change }));
  }

  protected setParents(ids: readonly string[]): Promise<void> {
    this.form.put({ parents: ids });
    return this.make((entry) => ({ ...entry, parents: ids.length === 0 ? 'any' : ids }));
  }

  private entryOf = ({ device }: MeshRow): MeshEntry | null => this.store.site()?.meshAps?.[device.id] ?? null;

  /** @param next is worked out in its turn, from what the edit before has made. */
  protected async make(next: (entry: MeshEntry | null) => MeshEntry | null): Promise<void> {
    await this.turns.take(() =>
      this.form.send(async () => {
        const site = this.store.site()!;
        const wanted = this.rows().map((row): Operation => {
          const from = this.entryOf(row);
          return { type: 'mesh.set', siteId: site.id, deviceId: row.device.id, from, to: next(from) };
        });
        const { operations, secrets } = withSite(site, wanted);
        if (operations.length > 0) await this.store.edit(operations, secrets);
      }),
    );
  }
}

/** What APs have in common; where they differ it is said. */
function textOf(rows: readonly MeshRow[]): MeshText {
  const common = (of: (row: MeshRow) => unknown): unknown => inCommon(rows, of);
  const [first] = rows;
  const alike = common(({ setting }) => JSON.stringify(setting.parents)) !== DIFFERS;
  return {
    when: common(({ setting }) => setting.when),
    band: common(({ setting }) => setting.band),
    hops: common(({ setting }) => setting.hops),
    parents: alike && first && first.setting.parents !== 'any' ? first.setting.parents : [],
  };
}
