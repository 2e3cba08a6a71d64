import { Component, computed, inject, input, output } from '@angular/core';
import { healthy, holdOf, targetWords, wronglyGoneEvery } from '@iron-lattice/core/paths';
import { SessionStore } from '../session/session-store';
import { Cell } from '../ui/cell';
import { TextCell } from '../ui/text-cell';
import type { UplinkRow } from './path-rows';
import { numberTyped } from '../ui/number-typed';
import { watchTyped, type UplinkText } from './uplink-text';
import { megabytesWords, pointOf, secondsWords, WatchCurve } from './watch-curve';

/** How an uplink is watched: the time until it is noticed that it is gone, beside what that costs. Cells of its sheet. */
@Component({
  selector: 'il-uplink-watch',
  imports: [Cell, TextCell, WatchCurve],
  template: `
    <il-cell label="Noticed when it is gone" size="wide" [hint]="costWords()">
      <il-watch-curve [watch]="watch()" (chosen)="choose($event)" />
    </il-cell>
    <il-text-cell
      label="Asked, one a line"
      for="uplink-targets"
      size="wide"
      [mono]="true"
      [rows]="3"
      hint="ping gateway · ping 192.0.2.1 · dns 192.0.2.53 gull.example · http 192.0.2.80. It counts as lost when none answers."
      [flaw]="flaw()"
      [readonly]="!session.mayChange()"
      [value]="text().targets"
      (typed)="typed.emit({ targets: $event })"
      (done)="done.emit()"
    />
    <il-text-cell
      label="Every, s"
      for="uplink-interval"
      [mono]="true"
      [readonly]="!session.mayChange()"
      [value]="text().interval"
      (typed)="typed.emit({ interval: $event })"
      (done)="done.emit()"
    />
    <il-text-cell
      label="Lost in a row until it is gone"
      for="uplink-losses"
      [mono]="true"
      [hint]="falseWords()"
      [readonly]="!session.mayChange()"
      [value]="text().losses"
      (typed)="typed.emit({ losses: $event })"
      (done)="done.emit()"
    />
    <il-text-cell
      label="An answer is waited for, s"
      for="uplink-timeout"
      [mono]="true"
      [readonly]="!session.mayChange()"
      [value]="text().timeout"
      (typed)="typed.emit({ timeout: $event })"
      (done)="done.emit()"
    />
    <il-text-cell
      label="Good in a row until it is back"
      for="uplink-good"
      [mono]="true"
      [readonly]="!session.mayChange()"
      [value]="text().good"
      (typed)="typed.emit({ good: $event })"
      (done)="done.emit()"
    />
    <il-text-cell
      label="and that for, s"
      for="uplink-hold"
      [mono]="true"
      [hint]="holdWords()"
      [readonly]="!session.mayChange()"
      [value]="text().hold"
      (typed)="typed.emit({ hold: $event })"
      (done)="done.emit()"
    />
  `,
  styles: ':host { display: contents; }',
})
export class UplinkWatch {
  protected readonly session = inject(SessionStore);
  readonly row = input.required<UplinkRow>();
  readonly text = input.required<UplinkText>();
  readonly flaw = input<string | undefined>('');
  readonly typed = output<Partial<UplinkText>>();
  readonly done = output<void>();
  protected readonly watch = computed(() => watchTyped(this.text()));
  protected readonly costWords = computed(() => {
    const watch = this.watch();
    const here = watch.interval >= watch.timeout ? pointOf(watch, watch.interval) : null;
    if (!here) return '';
    const whom = watch.targets.map(targetWords).join(', ');
    return `${secondsWords(here.best)} to ${secondsWords(here.worst)} after it goes, ${secondsWords(here.mean)} on the average, for ${megabytesWords(here.megabytes)} a day: ${whom}.`;
  });
  protected readonly falseWords = computed(() => {
    const { losses, interval } = this.watch();
    const loss = this.row().fact?.loss ?? 0;
    if (!(losses >= 1) || !(interval > 0)) return '';
    const at = loss > 0 && loss < 1 ? loss : 0.01;
    const every = wronglyGoneEvery({ interval, losses }, at);
    return `At ${Math.round(at * 100)} % loss a good uplink is taken for gone every ${longWords(every)}`;
  });
  protected readonly holdWords = computed(() => {
    const watch = this.watch();
    const most = holdOf(watch, { ...healthy(0), flaps: 5 });
    return watch.hold > 0 ? `Twice as long each time it goes again soon, up to ${secondsWords(most)}` : '';
  });

  protected choose(interval: number): void {
    if (!this.session.mayChange()) return;
    const timeout = Math.min(numberTyped(this.text().timeout) ?? interval, interval);
    this.typed.emit({ interval: `${interval}`, timeout: `${timeout}` });
    this.done.emit();
  }
}

/** A long time in words. */
function longWords(seconds: number): string {
  const hours = seconds / 3600;
  if (hours < 48) return hours < 1 ? `${Math.max(1, Math.round(hours * 60))} min` : `${Math.round(hours)} h`;
  const days = hours / 24;
  return days < 700 ? `${Math.round(days)} days` : `${Math.round(days / 365).toLocaleString('en')} years`;
}
