import type {
  AccountIssuer,
  AskedFields,
  CodeKind,
  GuestWay,
  Language,
  PageWords,
  Picture,
  Sponsors,
  UserChecks,
} from '../../guests';
import type { CapPair } from '../../traffic';
import type { Purposed } from '../purpose';

/** What each way in is called. */
export const WAY_WORDS: Readonly<Record<GuestWay, string>> = {
  accept: 'Press to accept',
  code: 'Visit code',
  mail: 'Code by mail',
  phone: 'Code by text message',
  sponsor: 'Somebody says yes',
  user: 'Name and password',
  account: 'Account elsewhere',
};

/** Where guests who join an SSID are held until they are let in, and what they are let in for. */
export interface Portal extends Purposed {
  readonly id: string;
  readonly name: string;
  readonly ways: readonly GuestWay[];
  /** What guests who say who they are are asked for besides. */
  readonly asks?: AskedFields | null;
  /** Minutes for which somebody is let in before the address they gave is known to be theirs; null: a code is asked for first. */
  readonly first?: number | null;
  /** Who may say yes to a guest; null: nobody. */
  readonly sponsors?: Sponsors | null;
  /** Kinds of visit codes that are given often, in the order in which they are offered. */
  readonly kinds?: readonly CodeKind[] | null;
  /** Who knows names and passwords; null: the controller. */
  readonly users?: UserChecks | null;
  /** Whose accounts guests sign in with; null: nobody’s. */
  readonly account?: AccountIssuer | null;
  /** Minutes that a visit lasts which nothing else ends. */
  readonly visit: number;
  /** Megabytes, of a million octets, and minutes, that a guest’s device may take a day by the clock of its site. */
  readonly dataADay?: number | null;
  readonly minutesADay?: number | null;
  /** Minutes after which a visit ends whose guest takes nothing; null: it goes on. */
  readonly idle?: number | null;
  /** Minutes from the end of a visit until somebody lets itself in once more; null: at once. */
  readonly rest?: number | null;
  /** Minutes from when somebody let itself in for which its device is let in again without being asked; null: it is asked each time. */
  readonly known?: number | null;
  /** Kilobits a second each way at which somebody goes on who took what there is a day; null: it is held back. */
  readonly slow?: number | null;
  /** What each guest’s device may take at once; what its SSID says of each client goes before where it is less. */
  readonly rate?: CapPair | null;
  /** Id of the hours at which guests are let in, by the clock of their site; null: always. Whoever is in then goes out at their end. */
  readonly hours?: string | null;
  /** Where somebody who was let in lands; null: the page that was asked for. */
  readonly landing?: string | null;
  /** Whether an answer of a RADIUS server may name it (Filter-Id, RFC 2865 §5.11), for whoever is let in by that. */
  readonly named?: boolean | null;
  /** Names and addresses that everybody reaches before. */
  readonly garden: readonly string[];
  /**
   * Names that phones look at to learn whether they are held: they are reached before, and devices are not told by DHCP that they are held, so that the
   * small window of their own stays closed. Null: it opens by itself.
   */
  readonly quiet?: readonly string[] | null;
  /** The page’s own address that its news link to: it works before signing in too. */
  readonly newsLink?: string | null;
  /** Languages that it speaks, the one first that stands in for all others. */
  readonly languages: readonly Language[];
  readonly words: Readonly<Partial<Record<Language, PageWords>>>;
  /** Whether guests have to say that they agree to the terms; else they are only there to be read. */
  readonly agree?: boolean | null;
  /** Colours of the page: its ground, and what is pressed, as `#rrggbb`. */
  readonly ground: string;
  readonly accent: string;
  /** What stands above its words, and behind them. */
  readonly logo?: Picture | null;
  readonly backdrop?: Picture | null;
}

/** Most portals of an estate. */
export const MOST_PORTALS = 200;
/** Characters of the words of a page. */
export const MOST_WORDS = { title: 80, text: 600, terms: 20_000, news: 600 } as const satisfies Record<
  keyof PageWords,
  number
>;
/** Minutes that a visit lies between: a month is the longest. */
export const [LEAST_VISIT, MOST_VISIT] = [5, 44_640];
/** Megabytes and minutes a day that can be said. */
export const [MOST_DATA, MOST_DAY_MINUTES] = [1_000_000, 1440];

/** Minutes after which somebody who takes nothing may be let out, and that somebody waits between two visits, at least and at most. */
export const [LEAST_IDLE, MOST_IDLE] = [5, 1440];
export const [LEAST_REST, MOST_REST] = [5, 44_640];
/** Minutes for which a device is known, and kilobits a second of somebody who has had what there is: at least and at most. */
export const [LEAST_KNOWN, MOST_KNOWN] = [60, 525_600];
export const [LEAST_SLOW, MOST_SLOW] = [16, 100_000];

/** What a new portal begins with. */
export const NEW_PORTAL: Omit<Portal, 'id' | 'name'> = {
  ways: ['accept'],
  visit: 480,
  garden: [],
  languages: ['en'],
  words: {},
  ground: '#f4f1ea',
  accent: '#8c2f1b',
};
