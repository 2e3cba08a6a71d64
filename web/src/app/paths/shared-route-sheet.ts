import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { Operation, SharedRoute } from '@iron-lattice/core/intent';
import { SessionStore } from '../session/session-store';
import { AtSites } from '../shell/at-sites';
import { EditForm } from '../shell/edit-form';
import { ReachCell } from '../shell/reach-cell';
import { SharedStore } from '../shell/shared-store';
import { SiteStore } from '../shell/site-store';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';
import { newSharedRoute, sharedRouteText, sharedRouteTyped, type SharedRouteText } from './shared-route-text';

const FIELDS = ['name', 'prefix', 'via', 'metric', 'tracks', 'purpose'];

/** A route that is said once for many sites, new or there already. */
@Component({
  selector: 'il-shared-route-sheet',
  imports: [MatButtonModule, AtSites, ChoiceCell, ReachCell, Sheet, TextCell],
  template: `
    <il-sheet
      [focusFirst]="route() === null"
      [heading]="route()?.name ?? 'New route'"
      note="At each site that it reaches, the gateway that routes its segments goes by it"
      (closed)="closed.emit()"
    >
      @if (route() && session.mayChange()) {
        <button actions mat-stroked-button (click)="remove()">Take away</button>
      }
      @if (session.mayChange()) {
        <button
          actions
          mat-flat-button
          type="submit"
          form="shared-route-fields"
          [disabled]="form.busy() || !form.differs() || nowhere()"
        >
          {{ route() ? 'Put into the draft' : 'Add the route' }}
        </button>
      }
      <form id="shared-route-fields" (submit)="keep($event)">
        <div class="cells">
          @let typed = text();
          <il-text-cell
            label="Called"
            for="shared-route-name"
            example="Harbour works"
            [most]="60"
            [flaw]="problem()?.of('name')"
            [readonly]="!session.mayChange()"
            [value]="typed.name"
            (typed)="form.put({ name: $event })"
          />
          <il-text-cell
            label="What is for"
            for="shared-route-prefix"
            example="172.20.0.0/16"
            [mono]="true"
            [flaw]="problem()?.of('prefix')"
            [readonly]="!session.mayChange()"
            [value]="typed.prefix"
            (typed)="form.put({ prefix: $event })"
          />
          <il-choice-cell
            label="Goes"
            for="shared-route-how"
            [disabled]="!session.mayChange()"
            [options]="hows"
            [value]="typed.how"
            [flaw]="typed.how === 'nowhere' ? problem()?.of('via') : undefined"
            (chosen)="form.put({ how: $event })"
          />
          @if (typed.how === 'segment') {
            <il-choice-cell
              label="In the segment"
              for="shared-route-segment"
              hint="Each site looks it up by name"
              [disabled]="!session.mayChange()"
              [options]="segments()"
              [value]="typed.segment"
              [flaw]="typed.segment === '' ? problem()?.of('via') : undefined"
              (chosen)="form.put({ segment: $event })"
            />
            <il-text-cell
              label="Its address number"
              for="shared-route-nth"
              example="5"
              hint="5 is 10.20.30.5 of 10.20.30.0/24"
              [mono]="true"
              [flaw]="typed.segment === '' ? undefined : problem()?.of('via')"
              [readonly]="!session.mayChange()"
              [value]="typed.nth"
              (typed)="form.put({ nth: $event })"
            />
          }
          @if (typed.how === 'uplink') {
            <il-text-cell
              label="By the uplink"
              for="shared-route-title"
              example="Satellite"
              hint="As sites call it, or its port"
              [flaw]="problem()?.of('via')"
              [readonly]="!session.mayChange()"
              [value]="typed.title"
              (typed)="form.put({ title: $event })"
            />
          }
          @if (typed.how !== 'nowhere') {
            <il-text-cell
              label="There while this answers"
              for="shared-route-tracks"
              example="always"
              [hint]="tracksHint()"
              [mono]="true"
              [flaw]="problem()?.of('tracks')"
              [readonly]="!session.mayChange()"
              [value]="typed.tracks"
              (typed)="form.put({ tracks: $event })"
            />
          }
          <il-text-cell
            label="Metric"
            for="shared-route-metric"
            example="0"
            [mono]="true"
            [flaw]="problem()?.of('metric')"
            hint="Of several for one prefix the lowest that is there"
            [readonly]="!session.mayChange()"
            [value]="typed.metric"
            (typed)="form.put({ metric: $event })"
          />
          <il-reach-cell
            for="shared-route-reach"
            [of]="route()?.id ?? null"
            [reach]="typed.reach"
            [disabled]="!session.mayChange()"
            (chosen)="form.put({ reach: $event })"
          />
          <il-choice-cell
            label="In force"
            for="shared-route-off"
            [disabled]="!session.mayChange()"
            [options]="forces"
            [value]="typed.off"
            (chosen)="form.put({ off: $event })"
          />
          <il-text-cell
            label="What it is for"
            for="shared-route-purpose"
            size="wide"
            hint="Found by it. What a site says itself of the same prefix comes first there"
            [flaw]="problem()?.of('purpose')"
            [readonly]="!session.mayChange()"
            [value]="typed.purpose"
            (typed)="form.put({ purpose: $event })"
          />
          @if (route(); as each) {
            <il-at-sites kind="route" stage="paths" [id]="each.id" />
          }
          @if (other(); as wrong) {
            <p class="cell full flaw" role="alert">{{ wrong }}</p>
          }
        </div>
      </form>
    </il-sheet>
  `,
  styles: ':host { display: contents; }',
})
export class SharedRouteSheet {
  private readonly store = inject(SiteStore);
  private readonly shared = inject(SharedStore);
  protected readonly session = inject(SessionStore);
  /** Null: a new one. */
  readonly route = input.required<SharedRoute | null>();
  readonly closed = output<void>();
  /** Id of the route that is in the draft now. */
  readonly kept = output<string>();
  protected readonly hows: readonly Choice[] = [
    { value: 'segment', label: 'to a neighbour in a segment' },
    { value: 'uplink', label: 'out by one uplink' },
    { value: 'nowhere', label: 'nowhere: it is dropped' },
  ];
  protected readonly forces: readonly Choice[] = [
    { value: false, label: 'yes' },
    { value: true, label: 'no, kept for later' },
  ];
  protected readonly form = new EditForm<SharedRoute, SharedRouteText>({
    kept: () => this.route(),
    idOf: ({ id }) => id,
    textOf: (route) => (route ? sharedRouteText(route) : newSharedRoute(this.shared.newReach())),
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly other = computed(() => this.form.other(FIELDS));
  protected readonly segments = computed(() => this.shared.joinChoices(this.text().segment, false));
  protected readonly tracksHint = computed(() =>
    this.text().how === 'segment'
      ? 'itself, or an address behind it. Asked every 2 s; empty: nobody is asked'
      : 'An address that is asked by this uplink every 2 s; empty: nobody is asked',
  );
  /** Whether it would reach no site at all. */
  protected readonly nowhere = computed(() => {
    const { reach } = this.text();
    return reach.kind === 'sites' && reach.siteIds.length === 0;
  });

  protected async keep(event: Event): Promise<void> {
    event.preventDefault();
    await this.form.send(async () => {
      const there = this.route();
      const fields = sharedRouteTyped(this.text());
      const id = there?.id ?? crypto.randomUUID();
      const operation = there
        ? { type: 'sharedRoute.set', sharedRouteId: id, ...this.form.change(fields, (kept) => kept) }
        : { type: 'sharedRoute.add', route: { id, ...fields } };
      await this.store.edit([operation as unknown as Operation]);
      this.kept.emit(id);
    });
  }

  protected async remove(): Promise<void> {
    const sharedRouteId = this.route()!.id;
    if (await this.store.tryEdit([{ type: 'sharedRoute.remove', sharedRouteId }])) this.closed.emit();
  }
}
