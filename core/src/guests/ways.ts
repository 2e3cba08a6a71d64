/**
 * Ways in that guests have: to press that they accept, a visit code, to say a mail address or a phone number that a code is sent to,
 * somebody of the house who says yes, a name and a password that are known already, or an account elsewhere (OpenID Connect Core 1.0).
 */
export const GUEST_WAYS = ['accept', 'code', 'mail', 'phone', 'sponsor', 'user', 'account'] as const;
export type GuestWay = (typeof GUEST_WAYS)[number];

/** Those in which guests say who they are. */
export const ASKED_WAYS = ['mail', 'phone', 'sponsor'] as const satisfies readonly GuestWay[];
export type AskedWay = (typeof ASKED_WAYS)[number];

export const isAskedWay = (way: unknown): way is AskedWay => ASKED_WAYS.some((each) => each === way);

/** Those that somebody has by itself, as often as it likes: it may have to wait between two visits. */
export const RESTING: readonly GuestWay[] = ['accept', 'mail', 'phone', 'user', 'account'];

/** Who knows by name and password: the controller, with the directory that it asks, or the RADIUS servers of the site. */
export const USER_CHECKS = ['kept', 'servers'] as const;
export type UserChecks = (typeof USER_CHECKS)[number];
/** Characters of a name and of a password that are taken. */
export const [MOST_USER, MOST_PASSWORD] = [128, 128];

/** What guests who say who they are can be asked for, and whether they may leave it empty. */
export const ASK_FIELDS = ['name', 'company', 'reason'] as const;
export type AskField = (typeof ASK_FIELDS)[number];
export type AskedFields = Readonly<Partial<Record<AskField, 'may' | 'must'>>>;
/** Characters of each. */
export const MOST_FIELD = { name: 60, company: 60, reason: 200 } as const satisfies Record<AskField, number>;
