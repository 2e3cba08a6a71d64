import { coursePicker, courseRule, type CourseDocument } from '@iron-lattice/core/document';
import type { CourseReport, PathChange } from '@iron-lattice/core/line';
import {
  Course,
  type CourseUse,
  type CourseView,
  type Flow,
  type PathMeasure,
  type UsedUplink,
} from '@iron-lattice/core/paths';

/** What leaves otherwise than the rest, as its gateway knows it. */
interface Steered {
  readonly course: Course;
  readonly name: string;
  /** By what, in words, so that a change is noticed. */
  usedBefore: string;
  /** Sessions that began since they are counted, by port. */
  readonly sessions: Map<string, number>;
  /** Octets of its own, and of all that left, since there is this course. */
  readonly octets: { own: number; all: number };
}

/** The courses that a gateway was told: which one a flow takes, and by what each leaves. */
export class Steering {
  private readonly courses: readonly Steered[];
  private readonly idOf: (flow: Flow) => string | null;

  /** @param view what a course looks at, at a moment in milliseconds since 1970. @param before what counted what left until now. */
  constructor(
    told: readonly CourseDocument[],
    private readonly view: (at: number) => CourseView,
    before?: Steering,
  ) {
    this.idOf = coursePicker(told);
    this.courses = told.map((each) => ({
      ...{ course: new Course(courseRule(each)), name: each.name, usedBefore: '', sessions: new Map<string, number>() },
      octets: before?.courses.find(({ course }) => course.rule.id === each.id)?.octets ?? { own: 0, all: 0 },
    }));
  }

  /** As they leave at the beginning, which is no change. */
  begin(at: number): void {
    for (const one of this.courses) one.usedBefore = wordsOf(this.useOf(one, at).used);
  }

  /** What the latest rounds through an uplink came to. @param measure null: nothing came back. */
  measured(port: string, measure: PathMeasure | null): void {
    for (const { course } of this.courses) course.measured(port, measure);
  }

  /** How a flow leaves that takes a course; null: as the rest. */
  of(flow: Flow, at: number): { readonly use: CourseUse; readonly mayStay: (port: string) => boolean } | null {
    const found = this.find(flow);
    if (!found) return null;
    const use = this.useOf(found, at);
    return { use, mayStay: (port) => use.usual || found.course.rule.ports.includes(port) };
  }

  /** A session of so many octets began. @returns whether it is one of a course. */
  began(flow: Flow, port: string, size: number): boolean {
    const found = this.find(flow);
    for (const { octets } of this.courses) octets.all += size;
    if (found) found.octets.own += size;
    found?.sessions.set(port, (found.sessions.get(port) ?? 0) + 1);
    return found !== undefined;
  }

  /** Those that leave by others now than when this was asked last. */
  changes(at: number): PathChange[] {
    return this.courses.flatMap((one): PathChange[] => {
      const { used, meets, usual } = this.useOf(one, at);
      const words = wordsOf(used);
      if (words === one.usedBefore) return [];
      one.usedBefore = words;
      one.sessions.clear();
      const why = usual ? 'none of its own is good' : !meets && used.length > 0 ? 'none meets what it needs' : '';
      return [{ at, port: '', what: 'steered', course: one.name, why, uses: used.map(({ port }) => port) }];
    });
  }

  report(at: number): CourseReport[] {
    return this.courses.map((one): CourseReport => {
      const { used, meets, usual } = this.useOf(one, at);
      const sessions = [...one.sessions].map(([port, count]) => ({ port, sessions: count }));
      const { own, all } = one.octets;
      const part = all > 0 ? { part: own / all } : {};
      return { id: one.course.rule.id, uses: used.map(({ port }) => port), meets, usual, sessions, ...part };
    });
  }

  private find(flow: Flow): Steered | undefined {
    const id = this.idOf(flow);
    return id === null ? undefined : this.courses.find(({ course }) => course.rule.id === id);
  }

  private useOf = ({ course }: Steered, at: number): CourseUse => course.use(this.view(at));
}

/** Used uplinks in words, to be told from others. */
export const wordsOf = (used: readonly UsedUplink[]): string => used.map(({ port }) => port).join(' ');
