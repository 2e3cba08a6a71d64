import type { Course } from '@iron-lattice/core/intent';
import type { CourseReport } from '@iron-lattice/core/paths';
import { writeEnds, writeServices } from '@iron-lattice/core/rules';
import { writeMark } from '@iron-lattice/core/traffic';
import { needsWords } from './course-text';
import { titleOf, type GatewayRow } from './path-rows';

/** A course as the list shows it. */
export interface CourseRow {
  readonly course: Course;
  readonly whom: string;
  readonly ways: string;
  /** How it leaves now, in words, and whether that is as asked for; null: its gateway told nothing of it. */
  readonly now: string;
  readonly fits: boolean | null;
}

/** The courses of a gateway, in the order in which they decide. */
export function courseRows({ uplinks, fact, courses }: GatewayRow): CourseRow[] {
  const titles = new Map(uplinks.map((row) => [row.port, titleOf(row)]));
  const title = (port: string): string => titles.get(port) ?? port;
  return courses.map((course): CourseRow => {
    const { from, to, services, dscp, ports, how, otherwise } = course;
    const any = services.length === 1 && services[0]!.protocol === 'any';
    const what = [
      ...(any ? [] : [writeServices(services)]),
      ...(dscp ? [`marked ${dscp.map(writeMark).join(', ')}`] : []),
    ];
    const ways = ports.map(title).join(how === 'first' ? ', then ' : ' and ');
    const told = fact?.courses?.find(({ id }) => id === course.id) ?? null;
    return {
      course,
      whom: [`${wordOf(writeEnds(from))} → ${wordOf(writeEnds(to))}`, ...what].join(', '),
      ways: [
        `${ways}${how === 'share' && ports.length > 1 ? ', shared' : ''}`,
        ...(needsWords(course) ? [needsWords(course)] : []),
        otherwise === 'nothing' ? 'else nothing' : 'else as the rest',
      ].join('; '),
      ...nowOf(course, told, title),
    };
  });
}

const wordOf = (ends: string): string => (ends === 'any' ? 'everybody' : ends);

function nowOf(
  { off }: Course,
  told: CourseReport | null,
  title: (port: string) => string,
): Pick<CourseRow, 'now' | 'fits'> {
  if (off) return { now: 'off', fits: null };
  if (!told) return { now: 'not told yet', fits: null };
  const { uses, meets, usual, sessions } = told;
  if (uses.length === 0) return { now: 'nothing gets out', fits: false };
  const count = sessions.reduce((sum, each) => sum + each.sessions, 0);
  const counts = count > 0 ? ` · ${count.toLocaleString('en')} sessions` : '';
  const why = usual ? ', as the rest does' : meets ? '' : ', though it is not as needed';
  return { now: `leaves by ${uses.map(title).join(' and ')}${why}${counts}`, fits: meets };
}
