import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { publishedRuleId, type Publication } from '@iron-lattice/core/intent';
import { SessionStore } from '../session/session-store';
import { EditForm } from '../shell/edit-form';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { TrafficCell } from '../shell/traffic-cell';
import { TrafficTokens } from '../shell/traffic-tokens';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';
import { TokenField } from '../ui/token-field';
import { KeptEdits } from './kept-edits';
import type { GatewayRow } from './path-rows';
import { PathsStore } from './paths-store';
import {
  leadsWords,
  NEW_PUBLICATION,
  publicationTextOf,
  publicationTyped,
  whoseWords,
  type PublicationText,
} from './publication-text';
import { uplinkTokens } from './uplink-tokens';

const FIELDS = ['name', 'ports', 'outside', 'address', 'inside', 'from', 'hours'];

/** Something published: one that there is, whose edits go into the draft as they are made, or one that is to be added. */
@Component({
  selector: 'il-publication-sheet',
  imports: [MatButtonModule, Cell, ChoiceCell, Sheet, TextCell, TokenField, TrafficCell],
  template: `
    <il-sheet [heading]="heading()" [note]="note()" [focusFirst]="publication() === null" (closed)="closed.emit()">
      @if (publication() && session.mayChange()) {
        <button actions mat-button type="button" (click)="remove()">Take away</button>
      }
      @if (publication() === null) {
        <button actions mat-flat-button type="button" [disabled]="form.busy()" (click)="add()">Publish it</button>
      }
      <div class="cells">
        @let typed = text();
        <il-text-cell
          label="Called"
          for="published-name"
          example="Ticket shop"
          [most]="60"
          [flaw]="problem()?.of('name')"
          [readonly]="!session.mayChange()"
          [value]="typed.name"
          (typed)="form.put({ name: $event })"
          (done)="save()"
        />
        <il-choice-cell
          label="Protocol"
          for="published-protocol"
          [disabled]="!session.mayChange()"
          [options]="protocols"
          [value]="typed.protocol"
          (chosen)="set({ protocol: $event })"
        />
        <il-text-cell
          label="Port outside"
          for="published-outside"
          example="443, or 8000-8010"
          [mono]="true"
          [flaw]="problem()?.of('outside')"
          [readonly]="!session.mayChange()"
          [value]="typed.outside"
          (typed)="form.put({ outside: $event })"
          (done)="save()"
        />
        <il-text-cell
          label="Leads to"
          for="published-address"
          example="10.20.5.7"
          [mono]="true"
          [flaw]="problem()?.of('address')"
          [hint]="whose()"
          [readonly]="!session.mayChange()"
          [value]="typed.address"
          (typed)="form.put({ address: $event })"
          (done)="save()"
        />
        <il-text-cell
          label="Port there"
          for="published-inside"
          example="the same"
          [mono]="true"
          [flaw]="problem()?.of('inside')"
          [readonly]="!session.mayChange()"
          [value]="typed.inside"
          (typed)="form.put({ inside: $event })"
          (done)="save()"
        />
        <il-traffic-cell
          of="ends"
          label="Who may, outside"
          for="published-from"
          [flaw]="problem()?.of('from')"
          [readonly]="!session.mayChange()"
          [value]="typed.from"
          (typed)="set({ from: $event })"
        />
        <il-cell label="At the uplinks" for="published-ports" size="wide" [flaw]="problem()?.of('ports')">
          <il-token-field
            label="At the uplinks"
            for="published-ports"
            placeholder="all of them"
            [value]="typed.ports"
            [source]="ports()"
            [readonly]="!session.mayChange()"
            (typed)="set({ ports: $event })"
          />
        </il-cell>
        <il-choice-cell
          label="At hours"
          for="published-hours"
          [disabled]="!session.mayChange()"
          [options]="hours()"
          [value]="typed.hours"
          [flaw]="problem()?.of('hours')"
          (chosen)="set({ hours: $event })"
        />
        <il-choice-cell
          label="From inside under that address"
          for="published-within"
          [disabled]="!session.mayChange()"
          [options]="withins"
          [value]="typed.within"
          (chosen)="set({ within: $event })"
        />
        <il-choice-cell
          label="Who came is noted"
          for="published-log"
          [disabled]="!session.mayChange()"
          [options]="logs"
          [value]="typed.log"
          (chosen)="set({ log: $event })"
        />
        @if (publication(); as kept) {
          <il-choice-cell
            label="In force"
            for="published-off"
            [disabled]="!session.mayChange()"
            [options]="forces"
            [value]="typed.off"
            (chosen)="set({ off: $event })"
          />
          <il-cell label="What it exposes" size="wide" [hint]="exposesWords(kept)">
            @for (finding of findings(); track finding.key) {
              <p class="finding">
                <b>{{ finding.message }}.</b> {{ finding.reason }}
              </p>
            }
            @for (note of notes(); track $index) {
              <p class="mono">{{ note }}</p>
            }
          </il-cell>
        }
        @if (other(); as wrong) {
          <p class="cell full flaw" role="alert">{{ wrong }}</p>
        }
      </div>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class PublicationSheet {
  private readonly store = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  private readonly tokens = inject(TrafficTokens);
  private readonly paths = inject(PathsStore);
  protected readonly session = inject(SessionStore);
  readonly gateway = input.required<GatewayRow>();
  /** Null: a new one. */
  readonly publication = input.required<Publication | null>();
  readonly closed = output<void>();
  readonly added = output<string>();
  protected readonly protocols: readonly Choice[] = [
    { value: 'tcp', label: 'TCP' },
    { value: 'udp', label: 'UDP' },
    { value: 'both', label: 'TCP and UDP' },
  ];
  protected readonly withins: readonly Choice[] = [
    { value: false, label: 'no' },
    { value: true, label: 'yes, where rules let them' },
  ];
  protected readonly logs: readonly Choice[] = [
    { value: false, label: 'counted only' },
    { value: true, label: 'the latest, with address' },
  ];
  protected readonly forces: readonly Choice[] = [
    { value: false, label: 'yes' },
    { value: true, label: 'no, kept for later' },
  ];
  protected readonly form = new EditForm<Publication, PublicationText>({
    kept: () => this.publication(),
    idOf: ({ id }) => id,
    textOf: (publication) => (publication ? publicationTextOf(publication) : NEW_PUBLICATION),
  });
  private readonly edits = new KeptEdits<Publication>({
    noun: 'publication',
    form: this.form,
    kept: () => this.publication(),
    read: () => publicationTyped(this.text(), this.tokens.known()),
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly other = computed(() => this.form.other(FIELDS));
  protected readonly ports = computed(() => uplinkTokens(this.gateway().uplinks));
  protected readonly whose = computed(() => whoseWords(this.text().address, this.store.site()?.segments ?? []));
  protected readonly hours = computed((): readonly Choice[] =>
    this.shared.hoursChoices().map(({ value, label }) => ({ value: value ?? '', label })),
  );
  protected readonly heading = computed(() => {
    const publication = this.publication();
    return publication ? `${this.gateway().device.name} ${publication.name}` : 'Publish a port';
  });
  protected readonly note = computed(() =>
    this.publication()
      ? 'People outside reach it through this gateway'
      : `Something inside that people outside are to reach through ${this.gateway().device.name}`,
  );
  protected readonly findings = computed(() =>
    (this.store.consequences()?.findings ?? []).filter(
      ({ place }) => place.kind === 'publication' && place.id === this.publication()?.id,
    ),
  );
  /** The latest who came, where they are noted. */
  protected readonly notes = computed(() => {
    const publication = this.publication();
    const hits = publication && this.paths.hits().get(publishedRuleId(publication.id));
    return (hits?.notes ?? []).slice(0, 5).map(({ packet, at }) => `${at.slice(0, 16).replace('T', ' ')} ${packet}`);
  });

  protected exposesWords(kept: Publication): string {
    const home = whoseWords(kept.address, this.store.site()?.segments ?? []).replace(/^In /, '');
    return `${leadsWords(kept)}${home ? `, in ${home}` : ''}; nothing else of it. Under Rules, Reach has it in the row of the internet.`;
  }

  protected set(change: Partial<PublicationText>): void {
    this.form.put(change);
    void this.save();
  }

  protected save = (): Promise<void> => this.edits.save();

  protected async add(): Promise<void> {
    const id = await this.edits.add({ deviceId: this.gateway().device.id });
    if (id !== null) this.added.emit(id);
  }

  protected async remove(): Promise<void> {
    if (await this.edits.remove()) this.closed.emit();
  }
}
