import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { StaticRoute } from '@iron-lattice/core/intent';
import { SessionStore } from '../session/session-store';
import { EditForm } from '../shell/edit-form';
import { SiteStore } from '../shell/site-store';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';
import { KeptEdits } from './kept-edits';
import { titleOf, type GatewayRow } from './path-rows';
import { whoseWords } from './publication-text';
import { newRoute, routeTextOf, routeTyped, type RouteText } from './route-text';

const FIELDS = ['name', 'prefix', 'via', 'metric', 'tracks'];

/** A route: one that there is, whose edits go into the draft as they are made, or one that is to be added. */
@Component({
  selector: 'il-route-sheet',
  imports: [MatButtonModule, Cell, ChoiceCell, Sheet, TextCell],
  template: `
    <il-sheet [heading]="heading()" [note]="note()" [focusFirst]="route() === null" (closed)="closed.emit()">
      @if (route() && session.mayChange()) {
        <button actions mat-button type="button" (click)="remove()">Take away</button>
      }
      @if (route() === null) {
        <button actions mat-flat-button type="button" [disabled]="form.busy()" (click)="add()">Add the route</button>
      }
      <div class="cells">
        @let typed = text();
        <il-text-cell
          label="Called"
          for="route-name"
          example="Harbour works"
          [most]="60"
          [flaw]="problem()?.of('name')"
          [readonly]="!session.mayChange()"
          [value]="typed.name"
          (typed)="form.put({ name: $event })"
          (done)="save()"
        />
        <il-text-cell
          label="What is for"
          for="route-prefix"
          example="172.20.0.0/16"
          [mono]="true"
          [flaw]="problem()?.of('prefix')"
          [readonly]="!session.mayChange()"
          [value]="typed.prefix"
          (typed)="form.put({ prefix: $event })"
          (done)="save()"
        />
        <il-choice-cell
          label="Goes"
          for="route-how"
          [disabled]="!session.mayChange()"
          [options]="hows()"
          [value]="typed.how"
          [flaw]="typed.how === 'nowhere' ? problem()?.of('via') : undefined"
          (chosen)="choose($event)"
        />
        @if (typed.how === 'address') {
          <il-text-cell
            label="To the neighbour"
            for="route-address"
            example="10.20.5.1"
            [mono]="true"
            [flaw]="problem()?.of('via')"
            [hint]="whose()"
            [readonly]="!session.mayChange()"
            [value]="typed.address"
            (typed)="form.put({ address: $event })"
            (done)="save()"
          />
        }
        @if (typed.how === 'uplink') {
          <il-choice-cell
            label="By the uplink"
            for="route-port"
            [disabled]="!session.mayChange()"
            [options]="ports()"
            [value]="typed.port"
            [flaw]="problem()?.of('via')"
            hint="While it is good; else as the next line of the table says"
            (chosen)="set({ port: $event })"
          />
        }
        @if (typed.how !== 'nowhere') {
          <il-text-cell
            label="There while this answers"
            for="route-tracks"
            example="always"
            [mono]="true"
            [flaw]="problem()?.of('tracks')"
            [hint]="tracksHint()"
            [readonly]="!session.mayChange()"
            [value]="typed.tracks"
            (typed)="form.put({ tracks: $event })"
            (done)="save()"
          />
        }
        <il-text-cell
          label="Metric"
          for="route-metric"
          example="0"
          [mono]="true"
          [flaw]="problem()?.of('metric')"
          hint="Of several for one prefix the lowest that is there"
          [readonly]="!session.mayChange()"
          [value]="typed.metric"
          (typed)="form.put({ metric: $event })"
          (done)="save()"
        />
        @if (route()) {
          <il-choice-cell
            label="In force"
            for="route-off"
            [disabled]="!session.mayChange()"
            [options]="forces"
            [value]="typed.off"
            (chosen)="set({ off: $event })"
          />
          @if (findings().length > 0) {
            <il-cell label="What is wrong with it" size="wide">
              @for (finding of findings(); track finding.key) {
                <p class="finding">
                  <b>{{ finding.message }}.</b> {{ finding.reason }}
                </p>
              }
            </il-cell>
          }
        }
        @if (other(); as wrong) {
          <p class="cell full flaw" role="alert">{{ wrong }}</p>
        }
      </div>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class RouteSheet {
  private readonly store = inject(SiteStore);
  protected readonly session = inject(SessionStore);
  readonly gateway = input.required<GatewayRow>();
  /** Null: a new one. */
  readonly route = input.required<StaticRoute | null>();
  readonly closed = output<void>();
  readonly added = output<string>();
  protected readonly forces: readonly Choice[] = [
    { value: false, label: 'yes' },
    { value: true, label: 'no, kept for later' },
  ];
  protected readonly ports = computed((): readonly Choice[] =>
    this.gateway().uplinks.map((row) => ({ value: row.port, label: titleOf(row) })),
  );
  protected readonly hows = computed((): readonly Choice[] => [
    { value: 'address', label: 'to a neighbour in a segment' },
    ...(this.ports().length > 0 || this.text().how === 'uplink'
      ? [{ value: 'uplink', label: 'out by one uplink' }]
      : []),
    { value: 'nowhere', label: 'nowhere: it is dropped' },
  ]);
  private readonly first = computed(() => this.gateway().uplinks[0]?.port ?? '');
  protected readonly form = new EditForm<StaticRoute, RouteText>({
    kept: () => this.route(),
    idOf: ({ id }) => id,
    textOf: (route) => (route ? routeTextOf(route, this.first()) : newRoute(this.first())),
  });
  private readonly edits = new KeptEdits<StaticRoute>({
    noun: 'route',
    form: this.form,
    kept: () => this.route(),
    read: () => routeTyped(this.text()),
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly other = computed(() => this.form.other(FIELDS));
  protected readonly whose = computed(() => whoseWords(this.text().address, this.store.site()?.segments ?? []));
  protected readonly tracksHint = computed(() =>
    this.text().how === 'address'
      ? 'itself, or an address behind it. Asked every 2 s; empty: nobody is asked'
      : 'An address that is asked by this uplink every 2 s; empty: nobody is asked',
  );
  protected readonly heading = computed(() => {
    const route = this.route();
    return route ? `${this.gateway().device.name} ${route.name}` : 'New route';
  });
  protected readonly note = computed(() =>
    this.route()
      ? 'What is for this prefix goes another way than the rest'
      : `Something that ${this.gateway().device.name} is to send another way than the rest`,
  );
  protected readonly findings = computed(() =>
    (this.store.consequences()?.findings ?? []).filter(
      ({ place }) => place.kind === 'route' && place.id === this.route()?.id,
    ),
  );

  protected set(change: Partial<RouteText>): void {
    this.form.put(change);
    void this.save();
  }

  /** A way to a neighbour waits until the neighbour is said. */
  protected choose(how: RouteText['how']): void {
    this.form.put({ how });
    if (how !== 'address' || this.text().address !== '') void this.save();
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
