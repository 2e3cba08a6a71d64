import { Component, computed, inject, input, output } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { segmentStreams } from '@iron-lattice/core/assess';
import type { Course } from '@iron-lattice/core/intent';
import { ROUNDS_MEASURED } from '@iron-lattice/core/paths';
import { SessionStore } from '../session/session-store';
import { EditForm } from '../shell/edit-form';
import { SiteStore } from '../shell/site-store';
import { TrafficCell } from '../shell/traffic-cell';
import { TrafficTokens } from '../shell/traffic-tokens';
import { Cell } from '../ui/cell';
import { ChoiceCell, type Choice } from '../ui/choice-cell';
import { Sheet } from '../ui/sheet';
import { TextCell } from '../ui/text-cell';
import { TokenField } from '../ui/token-field';
import { KeptEdits, lastTurn } from './kept-edits';
import { courseTextOf, courseTyped, hasNeeds, marksHint, NEW_COURSE, type CourseText } from './course-text';
import type { GatewayRow } from './path-rows';
import { uplinkTokens } from './uplink-tokens';

const FIELDS = ['name', 'from', 'to', 'services', 'dscp', 'ports', 'needs', 'steady', 'turn'];

/** A course: one that there is, whose edits go into the draft as they are made, or one that is to be added. */
@Component({
  selector: 'il-course-sheet',
  imports: [MatButtonModule, Cell, ChoiceCell, Sheet, TextCell, TokenField, TrafficCell],
  template: `
    <il-sheet [heading]="heading()" [note]="note()" [focusFirst]="course() === null" (closed)="closed.emit()">
      @if (course() && session.mayChange()) {
        <ng-container ngProjectAs="[actions]">
          <button mat-button type="button" [disabled]="!beside(-1)" (click)="move(-1)">Earlier</button>
          <button mat-button type="button" [disabled]="!beside(1)" (click)="move(1)">Later</button>
          <button mat-button type="button" (click)="remove()">Take away</button>
        </ng-container>
      }
      @if (course() === null) {
        <button actions mat-flat-button type="button" [disabled]="form.busy()" (click)="add()">Add the course</button>
      }
      <div class="cells">
        @let typed = text();
        <il-text-cell
          label="Called"
          for="course-name"
          example="Ticketing"
          [most]="60"
          [flaw]="problem()?.of('name')"
          [readonly]="!session.mayChange()"
          [value]="typed.name"
          (typed)="form.put({ name: $event })"
          (done)="save()"
        />
        <il-traffic-cell
          of="ends"
          label="From"
          for="course-from"
          [flaw]="problem()?.of('from')"
          [readonly]="!session.mayChange()"
          [value]="typed.from"
          (typed)="set({ from: $event })"
        />
        <il-traffic-cell
          of="ends"
          label="To"
          for="course-to"
          [flaw]="problem()?.of('to')"
          [readonly]="!session.mayChange()"
          [value]="typed.to"
          (typed)="set({ to: $event })"
        />
        <il-traffic-cell
          of="services"
          label="Services"
          for="course-services"
          [flaw]="read().flaws.services || problem()?.of('services')"
          [readonly]="!session.mayChange()"
          [value]="typed.services"
          (typed)="set({ services: $event })"
        />
        <il-text-cell
          label="Marks (DSCP)"
          for="course-dscp"
          example="any"
          [mono]="true"
          [hint]="marks()"
          [flaw]="problem()?.of('dscp')"
          [readonly]="!session.mayChange()"
          [value]="typed.dscp"
          (typed)="form.put({ dscp: $event })"
          (done)="save()"
        />
        <il-cell
          label="Leaves by, in this order"
          for="course-ports"
          size="wide"
          [flaw]="problem()?.of('ports')"
          [hint]="typed.ports === '' ? 'By none of the others, unless that is said beside' : ''"
        >
          <il-token-field
            label="Leaves by, in this order"
            for="course-ports"
            placeholder="wan1…"
            [value]="typed.ports"
            [source]="ports()"
            [readonly]="!session.mayChange()"
            (typed)="set({ ports: $event })"
          />
        </il-cell>
        <il-choice-cell
          label="Of these"
          for="course-how"
          [disabled]="!session.mayChange()"
          [options]="hows"
          [value]="typed.how"
          (chosen)="set({ how: $event })"
        />
        <il-choice-cell
          label="While none of them is good"
          for="course-otherwise"
          [disabled]="!session.mayChange()"
          [options]="otherwises"
          [value]="typed.otherwise"
          (chosen)="set({ otherwise: $event })"
        />
        <il-text-cell
          label="Lost at most, %"
          for="course-loss"
          example="as it comes"
          [mono]="true"
          [readonly]="!session.mayChange()"
          [value]="typed.loss"
          (typed)="form.put({ loss: $event })"
          (done)="save()"
        />
        <il-text-cell
          label="There and back at most, ms"
          for="course-latency"
          example="as it comes"
          [mono]="true"
          [readonly]="!session.mayChange()"
          [value]="typed.latency"
          (typed)="form.put({ latency: $event })"
          (done)="save()"
        />
        <il-text-cell
          label="Jitter at most, ms"
          for="course-jitter"
          example="as it comes"
          [mono]="true"
          [readonly]="!session.mayChange()"
          [value]="typed.jitter"
          (typed)="form.put({ jitter: $event })"
          (done)="save()"
        />
        <il-text-cell
          label="Voice score at least, 1 to 4.4"
          for="course-voice"
          example="as it comes"
          [mono]="true"
          [hint]="typed.voice ? 'As a call would be judged (ITU-T G.107). 4 is good, 3.6 is fair' : ''"
          [readonly]="!session.mayChange()"
          [value]="typed.voice"
          (typed)="form.put({ voice: $event })"
          (done)="save()"
        />
        @if (needs()) {
          <il-text-cell
            label="Left after rounds too bad in a row"
            for="course-bad"
            [mono]="true"
            [flaw]="problem()?.of('needs') || problem()?.of('steady')"
            [hint]="roundsHint"
            [readonly]="!session.mayChange()"
            [value]="typed.bad"
            (typed)="form.put({ bad: $event })"
            (done)="save()"
          />
          <il-text-cell
            label="Taken again after rounds well in a row"
            for="course-good"
            [mono]="true"
            [readonly]="!session.mayChange()"
            [value]="typed.good"
            (typed)="form.put({ good: $event })"
            (done)="save()"
          />
          <il-text-cell
            label="Well is better than needed by, %"
            for="course-margin"
            [mono]="true"
            [readonly]="!session.mayChange()"
            [value]="typed.margin"
            (typed)="form.put({ margin: $event })"
            (done)="save()"
          />
        }
        @if (course()) {
          <il-choice-cell
            label="In force"
            for="course-off"
            [disabled]="!session.mayChange()"
            [options]="forces"
            [value]="typed.off"
            (chosen)="set({ off: $event })"
          />
          <il-cell label="What takes it" size="wide" [hint]="takesWords()">
            @for (finding of findings(); track finding.key) {
              <p class="finding">
                <b>{{ finding.message }}.</b> {{ finding.reason }}
              </p>
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
export class CourseSheet {
  private readonly store = inject(SiteStore);
  private readonly tokens = inject(TrafficTokens);
  protected readonly session = inject(SessionStore);
  readonly gateway = input.required<GatewayRow>();
  /** Null: a new one. */
  readonly course = input.required<Course | null>();
  readonly closed = output<void>();
  readonly added = output<string>();
  protected readonly hows: readonly Choice[] = [
    { value: 'first', label: 'the first that is good' },
    { value: 'share', label: 'all that are, by their weights' },
  ];
  protected readonly otherwises: readonly Choice[] = [
    { value: 'nothing', label: 'nothing gets out' },
    { value: 'usual', label: 'leaves as the rest does' },
  ];
  protected readonly forces: readonly Choice[] = [
    { value: false, label: 'yes' },
    { value: true, label: 'no, kept for later' },
  ];
  protected readonly roundsHint = `Measured over the latest ${ROUNDS_MEASURED} rounds of each uplink’s questions`;
  protected readonly form = new EditForm<Course, CourseText>({
    kept: () => this.course(),
    idOf: ({ id }) => id,
    textOf: (course) => (course ? courseTextOf(course) : NEW_COURSE),
  });
  private readonly edits = new KeptEdits<Course>({
    noun: 'course',
    form: this.form,
    kept: () => this.course(),
    read: () => (Object.keys(this.read().flaws).length > 0 ? null : this.read().fields),
  });
  protected readonly text = this.form.text;
  protected readonly problem = this.form.problem;
  protected readonly read = computed(() => courseTyped(this.text(), this.tokens.known()));
  protected readonly marks = computed(() => marksHint(this.text().dscp));
  protected readonly needs = computed(() => hasNeeds(this.text()));
  protected readonly other = computed(() => this.form.other(FIELDS));
  protected readonly heading = computed(() => {
    const course = this.course();
    return course ? `${this.gateway().device.name} ${course.name}` : 'New course';
  });
  protected readonly note = computed(() =>
    this.course()
      ? 'A course of this gateway'
      : `What is to leave ${this.gateway().device.name} otherwise than the rest`,
  );
  /** Uplinks, to be chosen in an order. */
  protected readonly ports = computed(() => uplinkTokens(this.gateway().uplinks));
  /** Of which segments it takes anything. */
  protected readonly takesWords = computed(() => {
    const [site, data, course] = [this.tokens.resolved(), this.store.data(), this.course()];
    if (!site || !data || !course) return '';
    const streams = segmentStreams(site, data.roster, this.gateway().device).filter(({ courses }) =>
      courses.includes(course.id),
    );
    if (streams.length === 0) return 'Nothing of any segment of this site.';
    const whole = ({ courses, usual }: (typeof streams)[number]): boolean => !usual && courses.length === 1;
    return streams.map((each) => `${whole(each) ? 'all' : 'some'} of what leaves of ${each.name}`).join(', ');
  });
  protected readonly findings = computed(() =>
    (this.store.consequences()?.findings ?? []).filter(
      ({ place }) => place.kind === 'course' && place.id === this.course()?.id,
    ),
  );

  protected set(change: Partial<CourseText>): void {
    this.form.put(change);
    void this.save();
  }

  protected save = (): Promise<void> => this.edits.save();

  protected async add(): Promise<void> {
    const { device, courses } = this.gateway();
    const id = await this.edits.add({ deviceId: device.id, turn: lastTurn(courses) });
    if (id !== null) this.added.emit(id);
  }

  protected async remove(): Promise<void> {
    if (await this.edits.remove()) this.closed.emit();
  }

  /** The one that comes before it, or behind it. */
  protected beside(by: -1 | 1): Course | undefined {
    const all = this.gateway().courses;
    return all[all.findIndex(({ id }) => id === this.course()?.id) + by];
  }

  protected async move(by: -1 | 1): Promise<void> {
    const theirs = this.beside(by);
    if (theirs) await this.edits.swap(this.course()!, theirs, by);
  }
}
