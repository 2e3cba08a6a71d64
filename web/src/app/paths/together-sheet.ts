import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { LeavingEntry, LeavingFields } from '@iron-lattice/core/intent';
import { SessionStore } from '../session/session-store';
import { EditForm } from '../shell/edit-form';
import { SiteStore } from '../shell/site-store';
import { Turns } from '../shell/turns';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';
import { titleOf, type GatewayRow } from './path-rows';
import { numberTyped } from '../ui/number-typed';

interface TogetherText {
  readonly by: LeavingFields['by'];
  readonly stay: boolean;
  readonly begins: LeavingFields['begins'];
  readonly comes: 'after' | 'hand' | 'never';
  readonly seconds: string;
}

/** How a gateway uses its uplinks together. */
@Component({
  selector: 'il-together-sheet',
  imports: [MatButtonModule, Cell, ChoiceCell, Sheet, TextCell],
  template: `
    <il-sheet [heading]="gateway().device.name + ' uplinks together'" [note]="note()" (closed)="closed.emit()">
      @if (session.mayChange() && entry() !== null) {
        <button actions mat-stroked-button type="button" (click)="make(null)">As usual again</button>
      }
      <div class="cells">
        <il-choice-cell
          label="Sessions are shared"
          for="together-by"
          [hint]="shares()"
          [flaw]="problem()?.of('by') || problem()?.of('weight')"
          [disabled]="!session.mayChange()"
          [options]="bys"
          [value]="text().by"
          (chosen)="set({ by: $event })"
        />
        <il-choice-cell
          label="Where a session began it"
          for="together-stay"
          hint="A session that changes its uplink changes its address, and most break"
          [disabled]="!session.mayChange()"
          [options]="stays"
          [value]="text().stay"
          (chosen)="set({ stay: $event })"
        />
        <il-choice-cell
          label="A standby begins when"
          for="together-begins"
          [disabled]="!session.mayChange()"
          [options]="begins"
          [value]="text().begins"
          (chosen)="set({ begins: $event })"
        />
        <il-choice-cell
          label="An uplink that is good again is used again"
          for="together-comes"
          [disabled]="!session.mayChange()"
          [options]="comes"
          [value]="text().comes"
          (chosen)="set({ comes: $event })"
        />
        @if (text().comes === 'after') {
          <il-text-cell
            label="after, s"
            for="together-seconds"
            [mono]="true"
            [flaw]="problem()?.of('back')"
            [readonly]="!session.mayChange()"
            [value]="text().seconds"
            (typed)="form.put({ seconds: $event })"
            (done)="send()"
          />
        }
        <il-cell label="As files, as the draft has it">
          <a mat-button [href]="file('iproute2')" download>Routes (iproute2)</a>
          <a mat-button [href]="file('nft')" download>Marks (nftables)</a>
          <a mat-button [href]="file('tc')" download>Shares (tc)</a>
          <a mat-button [href]="file('ietf')" download>Said routes (RFC 8349)</a>
        </il-cell>
        @if (message(); as wrong) {
          <p class="cell full flaw" role="alert">{{ wrong }}</p>
        }
      </div>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class TogetherSheet {
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly gateway = input.required<GatewayRow>();
  readonly closed = output<void>();
  private readonly turns = new Turns();
  protected readonly bys: readonly Choice[] = [
    { value: 'weight', label: 'by their weights' },
    { value: 'capacity', label: 'by what each can do' },
  ];
  protected readonly stays: readonly Choice[] = [
    { value: true, label: 'stays while that is good' },
    { value: false, label: 'moves to where it belongs now' },
  ];
  protected readonly begins: readonly Choice[] = [
    { value: 'all', label: 'all that share are gone' },
    { value: 'any', label: 'any that shares is gone' },
  ];
  protected readonly comes: readonly Choice[] = [
    { value: 'after', label: 'after a while' },
    { value: 'hand', label: 'when somebody says so' },
    { value: 'never', label: 'not before the gateway is told something new' },
  ];
  protected readonly form = new EditForm<GatewayRow, TogetherText>({
    kept: () => this.gateway(),
    idOf: ({ device }) => device.id,
    textOf: (row) => textOf((row ?? this.gateway()).leaving),
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly message = computed(() => this.form.other(['by', 'back', 'weight']));
  protected readonly entry = computed(() => this.entryNow());
  protected readonly note = computed(() =>
    this.entryNow() === null ? 'As usual' : 'What is said here holds for this gateway alone',
  );
  protected readonly shares = computed(() =>
    this.gateway()
      .uplinks.filter(({ share }) => share > 0)
      .map((row) => `${titleOf(row)} ${Math.round(row.share * 100)} %`)
      .join(', '),
  );

  protected file(format: 'iproute2' | 'nft' | 'tc' | 'ietf'): string {
    const [draftId, { device }] = [this.store.draft()?.id, this.gateway()];
    return `/api/drafts/${draftId}/sites/${this.store.siteId()}/gateways/${device.id}/uplinks/${format}`;
  }

  protected set(change: Partial<TogetherText>): Promise<void> {
    this.form.put(change);
    return this.send();
  }

  protected send(): Promise<void> {
    const { by, stay, begins, comes, seconds } = this.text();
    // What is said of segments beside this sheet stays.
    return this.make({
      ...this.entryNow(),
      by,
      stay,
      begins,
      back: comes === 'after' ? (numberTyped(seconds) ?? -1) : comes,
    });
  }

  protected async make(to: LeavingEntry | null): Promise<void> {
    await this.turns.take(() =>
      this.form.send(async () => {
        const [siteId, { device }] = [this.store.siteId()!, this.gateway()];
        await this.store.edit([{ type: 'uplink.leaving', siteId, deviceId: device.id, from: this.entryNow(), to }]);
      }),
    );
  }

  private entryNow = (): LeavingEntry | null => this.store.site()?.leaving?.[this.gateway().device.id] ?? null;
}

const textOf = ({ by, stay, begins, back }: LeavingFields): TogetherText => ({
  ...{ by, stay, begins },
  comes: typeof back === 'number' ? 'after' : back,
  seconds: typeof back === 'number' ? `${back}` : '30',
});
