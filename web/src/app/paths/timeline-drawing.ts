import { Component, computed, input } from '@angular/core';
import type { Mishap, PathChangeView, PathSpan, Rehearsed } from '@iron-lattice/core/paths';
import { scaleLinear } from 'd3-scale';
import { clockOf } from './clock-of';

const [LEFT, RIGHT, LANE, GAP, FOOT] = [150, 26, 26, 8, 22];
const WIDE = 900;

/** A port on the timeline. */
export interface Lane {
  readonly port: string;
  readonly title: string;
}

/** What was computed along the time, lane by lane, and what really happened over it. */
@Component({
  selector: 'il-timeline-drawing',
  template: `
    <svg
      [attr.viewBox]="'0 0 ' + wide + ' ' + size().high"
      [attr.width]="wide"
      [attr.height]="size().high"
      role="img"
      [attr.aria-label]="words()"
    >
      @for (tick of ticks(); track tick.at) {
        <line [attr.x1]="tick.x" [attr.x2]="tick.x" y1="0" [attr.y2]="size().high - foot" class="grid" />
        <text [attr.x]="tick.x" [attr.y]="size().high - 6" text-anchor="middle" class="soft">{{ tick.text }}</text>
      }
      @for (lane of lanes(); track lane.port; let i = $index) {
        <text [attr.x]="left - 8" [attr.y]="lane.y + 17" text-anchor="end">{{ lane.title }}</text>
        <rect
          [attr.x]="left"
          [attr.y]="lane.y"
          [attr.width]="wide - left - right"
          [attr.height]="laneHigh"
          class="lane"
        />
        @for (harm of lane.harms; track $index) {
          <rect [attr.x]="harm.x" [attr.y]="lane.y" [attr.width]="harm.width" [attr.height]="laneHigh" class="harm" />
        }
        @for (use of lane.uses; track $index) {
          <rect
            [attr.x]="use.x"
            [attr.y]="lane.y + laneHigh - use.high"
            [attr.width]="use.width"
            [attr.height]="use.high"
            class="use"
          />
        }
        @for (harm of lane.harms; track $index) {
          <rect [attr.x]="harm.x" [attr.y]="lane.y" [attr.width]="harm.width" height="5" class="harmed" />
        }
        @for (real of lane.reals; track $index) {
          <rect [attr.x]="real.x" [attr.y]="lane.y + laneHigh + 1" [attr.width]="real.width" height="4" class="real" />
        }
      }
      @if (turns(); as turns) {
        <text [attr.x]="left - 8" [attr.y]="turns.y + 17" text-anchor="end">routes</text>
        @for (turn of turns.spans; track $index) {
          <rect
            [attr.x]="turn.x"
            [attr.y]="turn.y"
            [attr.width]="turn.width"
            [attr.height]="laneHigh"
            [class]="turn.tone"
          />
          <text [attr.x]="turn.x + 5" [attr.y]="turns.y + 17" class="by">{{ turn.text }}</text>
        }
        @for (real of turns.reals; track $index) {
          <rect [attr.x]="real.x" [attr.y]="turns.y + laneHigh + 1" [attr.width]="real.width" height="4" class="real" />
        }
      }
      @for (row of served(); track row.key) {
        <text [attr.x]="left - 8" [attr.y]="row.y + 17" text-anchor="end">{{ row.title }}</text>
        <path [attr.d]="row.path" class="served" />
        @for (gap of row.unmet; track $index) {
          <rect [attr.x]="gap.x" [attr.y]="row.y + laneHigh - 5" [attr.width]="gap.width" height="5" class="unmet" />
        }
        @for (gap of row.gaps; track $index) {
          <rect [attr.x]="gap.x" [attr.y]="row.y" [attr.width]="gap.width" [attr.height]="laneHigh" class="gap" />
        }
        @for (by of row.by; track $index) {
          <text [attr.x]="by.x + 5" [attr.y]="row.y + 17" class="by">{{ by.text }}</text>
        }
      }
    </svg>
  `,
  styles: `
    :host {
      display: block;
      overflow-x: auto;
      padding: 4px 14px;
    }
    .grid {
      stroke: var(--rule);
    }
    .lane {
      fill: var(--sheet);
      stroke: var(--rule);
    }
    .harm {
      fill: var(--bad);
      opacity: 0.18;
    }
    .harmed {
      fill: var(--bad);
      stroke: var(--sheet);
    }
    .use {
      fill: var(--iron);
    }
    .real {
      fill: var(--ink);
    }
    .served {
      fill: color-mix(in srgb, var(--good) 14%, transparent);
      stroke: var(--good);
      stroke-width: 1.5;
    }
    .gap {
      fill: var(--bad);
    }
    .own {
      fill: color-mix(in srgb, var(--info) 14%, transparent);
      stroke: var(--info);
    }
    .other {
      fill: color-mix(in srgb, var(--iron) 22%, transparent);
      stroke: var(--iron);
    }
    .unmet {
      fill: var(--caution);
    }
    text.by {
      font-size: 10.5px;
    }
    text {
      font:
        500 11.5px 'JetBrains Mono',
        monospace;
      fill: var(--ink);
    }
    text.soft {
      fill: var(--soft);
      font-size: 10.5px;
    }
  `,
})
export class TimelineDrawing {
  readonly ports = input.required<readonly Lane[]>();
  /** Names of uplinks by their ports, and of courses by their ids. */
  readonly titles = input.required<ReadonlyMap<string, string>>();
  readonly made = input.required<Rehearsed>();
  readonly mishaps = input.required<readonly Mishap[]>();
  /** What really happened, and when it began, in milliseconds since 1970. */
  readonly real = input<{
    readonly changes: readonly PathChangeView[];
    readonly at: number;
    readonly now: number;
  } | null>(null);
  protected readonly wide = WIDE;
  protected readonly left = LEFT;
  protected readonly right = RIGHT;
  protected readonly laneHigh = LANE;
  protected readonly foot = FOOT;
  private readonly end = computed(() => this.made().spans.at(-1)?.to ?? 1);
  private readonly x = computed(() => scaleLinear([0, this.end()], [LEFT, WIDE - RIGHT]));
  protected readonly size = computed(() => {
    const turns = this.ports().length * (LANE + GAP);
    const served = turns + (this.made().turns ? LANE + GAP : 0);
    return { turns, served, high: served + (LANE + GAP) * (1 + (this.made().courses?.length ?? 0)) - GAP + FOOT };
  });
  protected readonly ticks = computed(() =>
    ticksTo(this.end()).map((at) => ({ at, x: this.x()(at), text: clockOf(at) })),
  );
  protected readonly lanes = computed(() => {
    const [x, spans] = [this.x(), this.made().spans];
    return this.ports().map(({ port, title }, i) => ({
      ...{ port, title: short(title), y: i * (LANE + GAP) },
      harms: this.mishaps()
        .filter((each) => each.what === 'off' || each.port === port)
        .map(({ from, to }) => this.span(from, to ?? this.end())),
      uses: spans.flatMap(({ from, to, used }) => {
        const share = used.find((each) => each.port === port)?.share ?? 0;
        return share > 0
          ? [{ x: x(from), width: Math.max(0.5, x(to) - x(from)), high: Math.max(2, share * LANE) }]
          : [];
      }),
      reals: this.reals(port),
    }));
  });
  /** Who of a pair routes; null: it is of none. */
  protected readonly turns = computed(() => {
    const { turns } = this.made();
    if (!turns) return null;
    const y = this.size().turns;
    const first = turns[0]?.gatewayId;
    const spans = turns.map(({ from, to, gatewayId }) => {
      const span = this.span(from, to);
      const name = gatewayId === null ? '' : (this.titles().get(gatewayId) ?? '');
      const tone = gatewayId === null ? 'gap' : gatewayId === first ? 'own' : 'other';
      return { ...span, y, tone, text: span.width > name.length * 6.5 + 8 ? name : '' };
    });
    return { y, spans, reals: this.realTurns() };
  });
  /** Who is served: what leaves as usual, and each course, with what it leaves by. */
  protected readonly served = computed(() => {
    const { spans, courses = [] } = this.made();
    const rest = { key: '', title: courses.length > 0 ? 'the rest' : 'served', spans, by: [] };
    return [
      rest,
      ...courses.map((one) => ({
        ...{ key: one.id, title: short(this.titles().get(one.id) ?? one.id), spans: one.spans },
        by: this.turnsOf(one.spans),
      })),
    ].map((row, i) => {
      const y = this.size().served + i * (LANE + GAP);
      return {
        ...{ ...row, y, path: this.areaOf(row.spans, y + LANE) },
        gaps: row.spans.filter(({ served }) => served <= 1e-6).map(({ from, to }) => this.span(from, to)),
        unmet: row.spans
          .filter(({ unmet, served }) => unmet === true && served > 1e-6)
          .map(({ from, to }) => this.span(from, to)),
      };
    });
  });

  private areaOf(spans: readonly PathSpan[], foot: number): string {
    const x = this.x();
    const points = spans.flatMap(({ from, to, served }) => {
      const y = foot - Math.max(0, served) * (LANE - 1);
      return [`${x(from)} ${y}`, `${x(to)} ${y}`];
    });
    return points.length > 0 ? `M${x(0)} ${foot}L${points.join('L')}L${x(this.end())} ${foot}Z` : '';
  }

  /** What something leaves by, written where it begins and there is room for it. */
  private turnsOf(spans: readonly PathSpan[]): { readonly x: number; readonly text: string }[] {
    const x = this.x();
    let before = '';
    return spans.flatMap(({ from, used }, i) => {
      const text = used.map(({ port }) => this.titles().get(port) ?? port).join(' + ');
      if (text === before) return [];
      before = text;
      const now = spans[i]!;
      // What nobody is served by is drawn over.
      const next = spans.slice(i + 1).find((span) => nameOf(span) !== nameOf(now) || span.served <= 1e-6);
      const room = x(next?.from ?? this.end()) - x(from);
      return text !== '' && room > text.length * 6.5 + 8 ? [{ x: x(from), text }] : [];
    });
  }

  protected readonly words = computed(() => {
    const titles = new Map(this.ports().map(({ port, title }) => [port, title]));
    return this.made()
      .spans.map(
        ({ from, used, served }) =>
          `from ${Math.round(from)} s: ${used.map(({ port, share }) => `${titles.get(port)} ${Math.round(share * 100)} %`).join(', ') || 'nothing'}, ${Math.round(served * 100)} % served`,
      )
      .slice(0, 30)
      .join('; ');
  });

  private span(from: number, to: number): { readonly x: number; readonly width: number } {
    const x = this.x();
    return { x: x(from), width: Math.max(1, x(Math.min(to, this.end())) - x(from)) };
  }

  /** When one of the two really routed that does not usually. */
  private realTurns(): { readonly x: number; readonly width: number }[] {
    const [real, usual] = [this.real(), this.made().turns?.[0]?.gatewayId];
    if (!real) return [];
    const at = (ms: number): number => Math.min(this.end(), Math.max(0, (ms - real.at) / 1000));
    const told = real.changes
      .filter(({ deviceId, what }) => deviceId !== usual && (what === 'took-over' || what === 'stands-by'))
      .map((change) => ({ at: at(Date.parse(change.at)), routes: change.what === 'took-over' }));
    return told.flatMap(({ at: from, routes }, i) =>
      routes ? [this.span(from, told[i + 1]?.at ?? at(real.now))] : [],
    );
  }

  /** When a port was really used. */
  private reals(port: string): { readonly x: number; readonly width: number }[] {
    const real = this.real();
    if (!real) return [];
    const at = (ms: number): number => Math.min(this.end(), Math.max(0, (ms - real.at) / 1000));
    const first = this.made().spans[0]?.used.map((each) => each.port) ?? [];
    const turns = [
      { at: 0, uses: first },
      ...real.changes
        .filter(({ what }) => what !== 'steered' && what !== 'took-over' && what !== 'stands-by')
        .map((change) => ({ at: at(Date.parse(change.at)), uses: change.uses })),
      // A gateway without power leaves by none; it says so itself only once it has it again.
      ...this.mishaps().flatMap(({ what, from }) => (what === 'off' ? [{ at: from, uses: [] as string[] }] : [])),
    ].sort((a, b) => a.at - b.at);
    const last = at(real.now);
    return turns.flatMap(({ at: from, uses }, i) => {
      const to = turns[i + 1]?.at ?? last;
      return uses.includes(port) && to > from ? [this.span(from, to)] : [];
    });
  }
}

const short = (title: string): string => (title.length > 18 ? `${title.slice(0, 17)}…` : title);
const nameOf = ({ used }: PathSpan): string => used.map(({ port }) => port).join();

/** Moments that are worth a line, in seconds. */
function ticksTo(end: number): number[] {
  const step = [5, 10, 15, 30, 60, 120, 300, 600].find((each) => end / each <= 10) ?? 1800;
  return Array.from({ length: Math.floor(end / step) + 1 }, (_, i) => i * step);
}
