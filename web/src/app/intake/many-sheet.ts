import { Component, computed, inject, input, output, resource, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { readTags, type DeviceRow, type ManyResult } from '@iron-lattice/core/intake';
import { EstateStore } from '../shell/estate-store';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { SeverityMark } from '../ui/severity-mark';
import { Sheet } from '../ui/sheet';
import { IntakeApi } from './intake-api';
import { UpdateForm } from '../shell/update-form';
import { TextCell } from '../ui/text-cell';
import { ChoiceCell } from '../ui/choice-cell';

/** Devices that are asked what they would leave behind. */
const MOST_ASKED = 25;

/** Many devices at once: tags, firmware, restart, another site. */
@Component({
  selector: 'il-many-sheet',
  imports: [MatButtonModule, Cell, SeverityMark, Sheet, UpdateForm, TextCell, ChoiceCell],
  template: `
    <il-sheet [heading]="devices().length + ' devices'" [note]="note()" (closed)="closed.emit()">
      <div class="cells">
        <il-text-cell label="Tags" for="many-tags" hint="Parted by commas" [value]="tags" (typed)="tags = $event">
          <ng-container ngProjectAs="[beside]">
            <button mat-stroked-button [disabled]="busy() || tags === ''" (click)="tag(true)">Add</button>
            <button mat-stroked-button [disabled]="busy() || tags === ''" (click)="tag(false)">Take off</button>
          </ng-container>
        </il-text-cell>
        @if (ours().length > 0) {
          <il-choice-cell
            label="Take to another site"
            for="many-site"
            hint="Each gets the site’s next name and its documents."
            [options]="estate.siteChoices()"
            [value]="siteId()"
            (chosen)="siteId.set($event)"
          >
            <button
              beside
              mat-stroked-button
              [disabled]="busy() || !siteId() || leftovers.isLoading()"
              (click)="move()"
            >
              Move {{ ours().length }}
            </button>
            @if (leftovers.hasValue()) {
              @for (each of leftovers.value(); track each.message) {
                <p class="left"><il-severity-mark [severity]="each.severity" /> {{ each.message }}</p>
              }
            }
          </il-choice-cell>
          <il-cell label="Restart" [hint]="'Each is away for a moment, and whatever hangs on it.'">
            <button mat-stroked-button [disabled]="busy()" (click)="restart()">Restart {{ ours().length }}</button>
          </il-cell>
        }
        @if (expected().length > 0) {
          <il-cell label="Expected" hint="They are no longer waited for.">
            <button mat-stroked-button [disabled]="busy()" (click)="unexpect()">
              Take {{ expected().length }} off the list
            </button>
          </il-cell>
        }
        @if (ours().length > 0) {
          <il-update-form [deviceIds]="ids()" />
        }
        @if (result(); as done) {
          <il-cell label="Result" size="full" aria-live="polite">
            <p>{{ done.done }} done{{ done.failed.length > 0 ? ', ' + done.failed.length + ' not:' : '.' }}</p>
            @for (each of done.failed; track each.name) {
              <p class="flaw">
                <span class="mono">{{ each.name }}</span> {{ each.reason }}
              </p>
            }
          </il-cell>
        }
      </div>
    </il-sheet>
  `,
  styles: `
    :host {
      display: contents;
    }
  `,
})
export class ManySheet {
  private readonly api = inject(IntakeApi);
  private readonly site = inject(SiteStore);
  protected readonly estate = inject(EstateStore);
  readonly devices = input.required<readonly DeviceRow[]>();
  readonly closed = output<void>();

  protected tags = '';
  protected readonly siteId = signal('');
  protected readonly busy = signal(false);
  protected readonly result = signal<ManyResult | null>(null);
  protected readonly expected = computed(() => this.devices().filter((device) => device.state === 'expected'));
  protected readonly ours = computed(() =>
    this.devices().filter((device) => device.state !== 'expected' && device.state !== 'calling'),
  );
  protected readonly ids = computed(() => this.ours().map((device) => device.id));
  /** What the present sites would be left with; asked once a site is chosen. */
  protected readonly leftovers = resource({
    params: () => ({ ids: this.ids(), siteId: this.siteId() }),
    loader: async ({ params: { ids, siteId } }) => {
      if (siteId === '') return [];
      const lists = await Promise.all(ids.slice(0, MOST_ASKED).map((id) => this.api.leftovers(id)));
      const all = lists.flat().filter((each) => each.severity !== 'info');
      return [...new Map(all.map((each) => [each.message, each])).values()];
    },
  });
  protected readonly note = computed(() => {
    const names = this.devices().map((device) => device.name ?? device.serial);
    return names.length <= 6 ? names.join(', ') : `${names.slice(0, 5).join(', ')} and ${names.length - 5} more`;
  });

  protected tag(add: boolean): Promise<void> {
    const tags = readTags(this.tags);
    const deviceIds = this.devices().map((device) => device.id);
    return this.act(() => this.api.changeMany({ deviceIds, ...(add ? { addTags: tags } : { removeTags: tags }) }));
  }

  protected restart(): Promise<void> {
    return this.act(() => this.api.restartMany(this.ids()));
  }

  protected move(): Promise<void> {
    return this.act(async () => {
      const failed: { name: string; reason: string }[] = [];
      let done = 0;
      for (const device of this.ours()) {
        try {
          await this.api.move(device.id, this.siteId());
          done++;
        } catch (error) {
          failed.push({
            name: device.name ?? device.serial,
            reason: error instanceof Error ? error.message : String(error),
          });
        }
      }
      return { done, failed };
    });
  }

  protected unexpect(): Promise<void> {
    return this.act(async () => {
      const ids = this.expected().map((device) => device.id);
      await this.api.unexpect(ids);
      return { done: ids.length, failed: [] };
    });
  }

  private async act(act: () => Promise<ManyResult>): Promise<void> {
    this.busy.set(true);
    await this.site.attempt(async () => this.result.set(await act()));
    this.busy.set(false);
  }
}
