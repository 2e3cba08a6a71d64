import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MOST_POWER, type Pair } from '@iron-lattice/core/intent';
import { SessionStore } from '../session/session-store';
import { EditForm } from '../shell/edit-form';
import { SiteStore } from '../shell/site-store';
import { Turns } from '../shell/turns';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';
import { addressWords, chosenAt, pairTextOf, pairTyped, waitWords, type PairText } from './pair-text';
import { titleOf, type GatewayRow } from './path-rows';

/** How two gateways of a site take turns. */
@Component({
  selector: 'il-pair-sheet',
  imports: [MatButtonModule, Cell, ChoiceCell, Sheet, TextCell],
  template: `
    <il-sheet heading="Pair of gateways" [note]="waits()" (closed)="closed.emit()">
      @if (session.mayChange()) {
        <button actions mat-stroked-button type="button" (click)="apart()">Take the pair apart</button>
      }
      <div class="cells">
        <il-choice-cell
          label="Routes while all is well"
          for="pair-first"
          [flaw]="problem()?.of('firstId')"
          [disabled]="!session.mayChange()"
          [options]="devices()"
          [value]="text().firstId"
          (chosen)="choose('first', $event)"
        />
        <il-choice-cell
          label="Stands by and takes over"
          for="pair-second"
          hint="What is said of the other holds there too, by the names of uplinks"
          [flaw]="problem()?.of('secondId')"
          [disabled]="!session.mayChange()"
          [options]="devices()"
          [value]="text().secondId"
          (chosen)="choose('second', $event)"
        />
        <il-choice-cell
          [label]="'Tracked at ' + names()[0]"
          for="pair-tracks-first"
          hint="Without these it hands over"
          [flaw]="problem()?.of('tracks.first')"
          [several]="true"
          example="none: it never hands over for an uplink"
          [disabled]="!session.mayChange()"
          [options]="portsOf(text().firstId)"
          [value]="text().firstTracks"
          (chosen)="set({ firstTracks: $event })"
        />
        <il-choice-cell
          [label]="'Tracked at ' + names()[1]"
          for="pair-tracks-second"
          [flaw]="problem()?.of('tracks.second')"
          [several]="true"
          example="none"
          [disabled]="!session.mayChange()"
          [options]="portsOf(text().secondId)"
          [value]="text().secondTracks"
          (chosen)="set({ secondTracks: $event })"
        />
        <il-choice-cell
          label="Hands over when"
          for="pair-when"
          [disabled]="!session.mayChange()"
          [options]="whens"
          [value]="text().when"
          (chosen)="set({ when: $event })"
        />
        <il-choice-cell
          [label]="'When ' + names()[0] + ' is well again'"
          for="pair-back"
          [disabled]="!session.mayChange()"
          [options]="backs"
          [value]="text().back"
          (chosen)="set({ back: $event })"
        />
        <il-choice-cell
          label="Leases that one gave out"
          for="pair-leases"
          hint="Settings and keys of tunnels both have in any case; sessions that were translated begin anew"
          [disabled]="!session.mayChange()"
          [options]="leases"
          [value]="text().leases"
          (chosen)="set({ leases: $event })"
        />
        <il-text-cell
          label="A sign of life every, s"
          for="pair-advert"
          [mono]="true"
          [flaw]="problem()?.of('advert')"
          [readonly]="!session.mayChange()"
          [value]="text().advert"
          (typed)="form.put({ advert: $event })"
          (done)="send()"
        />
        <il-text-cell
          label="Number of the virtual router"
          for="pair-router"
          hint="Another one where other routers in the segment share addresses as well"
          [mono]="true"
          [flaw]="problem()?.of('router')"
          [readonly]="!session.mayChange()"
          [value]="text().router"
          (typed)="form.put({ router: $event })"
          (done)="send()"
        />
        <il-text-cell
          [label]="names()[0] + ' is fed by'"
          for="pair-power-first"
          example="such as battery A"
          [most]="mostPower"
          [readonly]="!session.mayChange()"
          [value]="text().firstPower"
          (typed)="form.put({ firstPower: $event })"
          (done)="send()"
        />
        <il-text-cell
          [label]="names()[1] + ' is fed by'"
          for="pair-power-second"
          example="such as battery B"
          [most]="mostPower"
          [readonly]="!session.mayChange()"
          [value]="text().secondPower"
          (typed)="form.put({ secondPower: $event })"
          (done)="send()"
        />
        <il-cell label="Addresses, which follow">{{ addresses() }}</il-cell>
        <il-cell label="As a file, as the draft has it">
          @for (one of files(); track one.id) {
            <a mat-button [href]="file(one.id)" download>{{ one.name }} (keepalived)</a>
          }
        </il-cell>
        @if (message(); as wrong) {
          <p class="cell full flaw" role="alert">{{ wrong }}</p>
        }
      </div>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class PairSheet {
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly pair = input.required<Pair>();
  readonly gateways = input.required<readonly GatewayRow[]>();
  readonly closed = output<void>();
  private readonly turns = new Turns();
  protected readonly mostPower = MOST_POWER;
  protected readonly whens: readonly Choice[] = [
    { value: 'all', label: 'all of these failed' },
    { value: 'any', label: 'any of these fails' },
  ];
  protected readonly backs: readonly Choice[] = [
    { value: true, label: 'it routes again' },
    { value: false, label: 'whoever routes goes on' },
  ];
  protected readonly leases: readonly Choice[] = [
    { value: true, label: 'are handed over' },
    { value: false, label: 'are not handed over' },
  ];
  protected readonly form = new EditForm<Pair, PairText>({
    kept: () => this.pair(),
    idOf: () => 'pair',
    textOf: (pair) => pairTextOf(pair ?? this.pair()),
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly message = computed(() =>
    this.form.other(['firstId', 'secondId', 'tracks.first', 'tracks.second', 'advert', 'router']),
  );
  protected readonly devices = computed((): Choice[] =>
    this.gateways().map(({ device: { id, name } }) => ({ value: id, label: name })),
  );
  protected readonly names = computed(() => {
    const { firstId, secondId } = this.text();
    return [firstId, secondId].map((id) => this.rowOf(id)?.device.name ?? 'the one that is gone');
  });
  protected readonly waits = computed(() => waitWords(this.pair()));
  protected readonly addresses = computed(() => {
    const data = this.store.data();
    return data ? addressWords(data.site, data.roster) : '';
  });
  protected readonly files = computed(() =>
    [this.pair().firstId, this.pair().secondId].flatMap((id) => {
      const row = this.rowOf(id);
      return row ? [{ id, name: row.device.name }] : [];
    }),
  );

  protected portsOf = (id: string): readonly Choice[] =>
    (this.rowOf(id)?.uplinks ?? []).map((row) => ({ value: row.port, label: titleOf(row) }));

  protected file(deviceId: string): string {
    const draftId = this.store.draft()?.id;
    return `/api/drafts/${draftId}/sites/${this.store.siteId()}/gateways/${deviceId}/uplinks/keepalived`;
  }

  protected choose(place: 'first' | 'second', id: string): Promise<void> {
    return this.set(chosenAt(this.text(), place, id, this.gateways()));
  }

  protected set(change: Partial<PairText>): Promise<void> {
    this.form.put(change);
    return this.send();
  }

  protected send(): Promise<void> {
    return this.make(pairTyped(this.text()));
  }

  protected async apart(): Promise<void> {
    await this.make(null);
    if (!this.problem()) this.closed.emit();
  }

  private async make(to: Pair | null): Promise<void> {
    await this.turns.take(() =>
      this.form.send(() =>
        this.store.edit([
          { type: 'pair.set', siteId: this.store.siteId()!, from: this.store.site()?.pair ?? null, to },
        ]),
      ),
    );
  }

  private rowOf = (id: string): GatewayRow | undefined => this.gateways().find(({ device }) => device.id === id);
}
