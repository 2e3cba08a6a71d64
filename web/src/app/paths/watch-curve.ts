import { Component, computed, input, output } from '@angular/core';
import { noticedAfter, roundOctets, watchingCost, type Watch } from '@iron-lattice/core/paths';
import { scaleLog } from 'd3-scale';
import { line } from 'd3-shape';

/** Intervals that one chooses among, in seconds. */
export const INTERVALS = [0.2, 0.5, 1, 2, 3, 5, 10, 15, 20, 30, 60, 120, 300] as const;
const [WIDE, HIGH, LEFT, FOOT, TOP] = [420, 148, 44, 30, 10];

/** What an interval comes to. */
export interface WatchPoint {
  readonly interval: number;
  readonly best: number;
  readonly mean: number;
  readonly worst: number;
  /** Megabytes a day that questions take. */
  readonly megabytes: number;
}

/** What a watch comes to at some interval; an answer is waited for no longer than that. */
export function pointOf(watch: Watch, interval: number): WatchPoint | null {
  const { targets, losses } = watch;
  const timeout = Math.min(watch.timeout, interval);
  if (!(losses >= 1) || !(timeout > 0) || targets.length === 0) return null;
  const cost = watchingCost(interval, 1, roundOctets(targets));
  return { interval, ...noticedAfter({ interval, losses, timeout }), megabytes: cost.megabytesAMonth / 30 };
}

/** Seconds as people read them. */
export const secondsWords = (seconds: number): string => {
  if (seconds < 10) return `${Number(seconds.toFixed(1))} s`;
  if (seconds < 120) return `${Math.round(seconds)} s`;
  return seconds < 7200 ? `${Math.round(seconds / 60)} min` : `${Math.round(seconds / 3600)} h`;
};
export const megabytesWords = (megabytes: number): string =>
  megabytes < 10 ? `${Number(megabytes.toPrecision(2))} MB` : `${Math.round(megabytes)} MB`;

/** How soon it is noticed that an uplink is gone, against what asking costs: one point of the curve is chosen. */
@Component({
  selector: 'il-watch-curve',
  template: `
    <svg
      [attr.viewBox]="'0 0 ' + wide + ' ' + high"
      [attr.width]="wide"
      [attr.height]="high"
      role="img"
      [attr.aria-label]="words()"
      (click)="pick($event)"
    >
      @for (tick of drawn().across; track tick.at) {
        <line [attr.x1]="tick.at" [attr.x2]="tick.at" [attr.y1]="top" [attr.y2]="high - foot" class="grid" />
        <text [attr.x]="tick.at" [attr.y]="high - foot + 13" text-anchor="middle">{{ tick.text }}</text>
      }
      @for (tick of drawn().up; track tick.at) {
        <line [attr.x1]="left" [attr.x2]="wide - 6" [attr.y1]="tick.at" [attr.y2]="tick.at" class="grid" />
        <text [attr.x]="left - 5" [attr.y]="tick.at + 4" text-anchor="end">{{ tick.text }}</text>
      }
      <text [attr.x]="wide - 6" [attr.y]="high - 3" text-anchor="end" class="soft">checks, MB a day</text>
      <path [attr.d]="drawn().span" class="span" />
      <path [attr.d]="drawn().mean" class="mean" />
      @for (point of drawn().points; track point.interval) {
        <circle [attr.cx]="point.x" [attr.cy]="point.y" r="3" [class.chosen]="point.chosen" />
      }
      @if (drawn().chosen; as here) {
        <circle [attr.cx]="here.x" [attr.cy]="here.y" r="5.5" class="ring" />
      }
    </svg>
  `,
  styles: `
    :host {
      display: block;
      overflow-x: auto;
    }
    svg {
      max-width: 100%;
      height: auto;
      cursor: crosshair;
      display: block;
    }
    .grid {
      stroke: var(--rule);
    }
    .mean {
      fill: none;
      stroke: var(--iron);
      stroke-width: 2;
    }
    .span {
      fill: var(--tint);
      stroke: none;
    }
    circle {
      fill: var(--sheet);
      stroke: var(--iron);
    }
    circle.chosen {
      fill: var(--iron);
    }
    circle.ring {
      fill: none;
      stroke: var(--iron);
      stroke-width: 2;
    }
    text {
      font:
        500 10.5px 'JetBrains Mono',
        monospace;
      fill: var(--ink);
    }
    text.soft {
      fill: var(--soft);
    }
  `,
})
export class WatchCurve {
  readonly watch = input.required<Watch>();
  /** An interval was chosen, in seconds. */
  readonly chosen = output<number>();
  protected readonly wide = WIDE;
  protected readonly high = HIGH;
  protected readonly left = LEFT;
  protected readonly foot = FOOT;
  protected readonly top = TOP;
  private readonly points = computed(() => {
    const own = this.watch().interval;
    const all = [...new Set([...INTERVALS, ...(own > 0 ? [own] : [])])].sort((a, b) => a - b);
    return all.flatMap((interval) => pointOf(this.watch(), interval) ?? []);
  });
  private readonly scales = computed(() => {
    const points = this.points();
    const cost = points.map(({ megabytes }) => megabytes);
    const time = points.flatMap(({ best, worst }) => [best, worst]);
    return {
      x: scaleLog([Math.min(...cost, 1), Math.max(...cost, 2)], [LEFT, WIDE - 14]),
      y: scaleLog([Math.max(0.05, Math.min(...time, 1)), Math.max(...time, 2)], [HIGH - FOOT, TOP]),
    };
  });
  protected readonly words = computed(() => {
    const here = pointOf(this.watch(), this.watch().interval);
    return here
      ? `Asked every ${here.interval} s: noticed after ${secondsWords(here.best)} to ${secondsWords(here.worst)}, for ${megabytesWords(here.megabytes)} a day`
      : 'Nothing is asked';
  });
  protected readonly drawn = computed(() => {
    const points = this.points();
    const { x, y } = this.scales();
    const at = (point: WatchPoint) => ({ interval: point.interval, x: x(point.megabytes), y: y(point.mean) });
    const along = line<WatchPoint>(
      ({ megabytes }) => x(megabytes),
      ({ mean }) => y(mean),
    );
    const span = [
      ...points.map(({ megabytes, worst }) => [x(megabytes), y(worst)] as [number, number]),
      ...[...points].reverse().map(({ megabytes, best }) => [x(megabytes), y(best)] as [number, number]),
    ];
    const own = this.watch().interval;
    const chosen = points.find(({ interval }) => interval === own);
    const powers = (from: number, to: number): number[] =>
      Array.from({ length: 9 }, (_, i) => 10 ** (i - 3)).filter((each) => each >= from && each <= to);
    return {
      mean: along(points) ?? '',
      span: span.length > 0 ? `${line()(span) ?? ''}Z` : '',
      points: points.map((point) => ({ ...at(point), chosen: point.interval === own })),
      chosen: chosen ? at(chosen) : null,
      across: powers(x.domain()[0]!, x.domain()[1]!).map((each) => ({ at: x(each), text: `${each}` })),
      up: powers(y.domain()[0]!, y.domain()[1]!).map((each) => ({ at: y(each), text: secondsWords(each) })),
    };
  });

  /** The point nearest to where somebody pressed. */
  protected pick(event: MouseEvent): void {
    const box = (event.currentTarget as SVGElement).getBoundingClientRect();
    const [mx, my] = [((event.clientX - box.left) * WIDE) / box.width, ((event.clientY - box.top) * HIGH) / box.height];
    const nearest = this.drawn()
      .points.map(({ interval, x, y }) => ({ interval, far: Math.hypot(x - mx, y - my) }))
      .sort((a, b) => a.far - b.far)[0];
    if (nearest) this.chosen.emit(nearest.interval);
  }
}
