import { randomBytes, timingSafeEqual } from 'node:crypto';
import {
  closedPage,
  documentOf,
  donePage,
  askedPage,
  confirmPage,
  hidden,
  languageOf,
  LANGUAGES,
  plainPage,
  quotaPage,
  refusedPage,
  RESTING,
  restPage,
  strangerPage,
  termsVersion,
  textsOf,
  waitingPage,
  welcomePage,
  type Drawn,
  type GuestWay,
  type Language,
  type PageOf,
} from '@iron-lattice/core/guests';
import { openingAt, type Opening } from '@iron-lattice/core/rules';
import type { Context } from 'koa';
import { clock } from '../../platform/clock';
import type { Pending } from '../asking/ask.service';
import type { LivePortal } from '../portals-live';
import type { Guest, Standing } from '../visit.service';
import type { PortalParts } from './portal-parts';
import type { Seat } from './seat.service';

/** Name of the cookie that a guest’s browser is known by. */
export const GUEST_COOKIE = 'guest';
/** How long a device may take to do as it was told before a guest is told that it takes long, in milliseconds. */
const SOON_MS = 8000;

/** A guest who is known, at a portal that is there. */
export interface Present extends LivePortal {
  readonly seat: Seat;
  readonly language: Language;
  readonly cookie: string;
}

/** What every page of a portal has in common: who it is, in which language, and how it is sent. */
export class PortalPages {
  constructor(private readonly parts: PortalParts) {}

  show(
    context: Context,
    drawn: Drawn,
    of: { portal: LivePortal['portal'] | null; language: Language },
    status = 200,
  ): void {
    const style = randomBytes(12).toString('base64');
    context.status = status;
    context.type = 'text/html; charset=utf-8';
    context.set(
      'content-security-policy',
      `default-src 'none'; style-src 'nonce-${style}'; img-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'`,
    );
    context.body = documentOf(drawn, of, style);
  }

  /** The language of somebody whom no portal is known of. */
  stranger = (context: Context): Language => languageOf(LANGUAGES, undefined, context.get('accept-language'));

  /** Says one thing to somebody whom no portal is known of. */
  plain(context: Context, text: string, status: number): void {
    this.show(context, plainPage(text), { portal: null, language: this.stranger(context) }, status);
  }

  /** Who it is; answers by itself where nobody is known, or nothing is there. */
  async present(context: Context): Promise<Present | null> {
    const cookie = context.cookies.get(GUEST_COOKIE);
    const seat = cookie === undefined ? null : await this.parts.seats.find(cookie);
    if (!seat) {
      const language = this.stranger(context);
      this.show(context, strangerPage(language, 'new'), { portal: null, language }, 403);
      return null;
    }
    const live = await this.parts.portals.at(seat.siteId, seat.portalId);
    if (!live) {
      this.plain(context, textsOf(this.stranger(context)).gone, 410);
      return null;
    }
    const language = languageOf(live.portal.languages, seat.language ?? undefined, context.get('accept-language'));
    return { ...live, seat, language, cookie: cookie! };
  }

  /** The same of a form that is sent: one that is none of ours, or comes when nobody is let in, is sent back to where it came from. */
  async presentWithForm(context: Context): Promise<Present | null> {
    const here = await this.present(context);
    if (!here || (this.isOurs(context, here) && this.openingOf(here).open)) return here;
    goTo(context, '/');
    return null;
  }

  of = ({ portal, siteName, timeZone, language, cookie }: Present): PageOf => ({
    ...{ portal, siteName, timeZone, language },
    proof: this.proofOf(cookie),
  });

  guestOf = ({ seat, portal, language }: Present): Guest => ({
    ...{
      portalId: seat.portalId,
      siteId: seat.siteId,
      deviceId: seat.deviceId,
      mac: seat.mac,
      place: seat.place,
      language,
    },
    ...{ terms: portal.agree ? termsVersion(portal, language) : null, idle: portal.idle ?? null },
  });

  /** Whether guests are let in at this hour. */
  openingOf = ({ hours, timeZone }: LivePortal): Opening =>
    hours ? openingAt(hours, timeZone, clock.now()) : { open: true, until: null };

  standingOf = ({ seat, ...here }: Present): Promise<Standing | null> =>
    this.parts.visits.standing(seat.portalId, seat.mac, here);

  /** The same of somebody who comes to the page: whose device is known is let in again. */
  async arrived(here: Present): Promise<Standing | null> {
    const standing = await this.parts.visits.glance(here.seat.portalId, here.seat.mac, here);
    const isOver = standing?.why === 'over' || standing?.why === 'idle';
    if (!here.portal.known || !isOver || standing.blocked) return standing;
    const { portalId, siteId, deviceId, mac } = here.seat;
    const began = await this.parts.known.comeAgain(portalId, siteId, deviceId, [mac]);
    return began ? this.standingOf(here) : standing;
  }

  /** Whether somebody has nothing to ask for: it is in, kept out, has had what there is, or has to wait for a way in. */
  async isSettled(here: Present, way: GuestWay): Promise<boolean> {
    const standing = await this.standingOf(here);
    if (standing === null) return false;
    const waits = standing.why === 'quota' || (standing.why === 'rest' && RESTING.includes(way));
    return standing.blocked || standing.letIn || waits;
  }

  /** What a guest waits for, where its portal asks who it is. */
  pendingOf = async ({ seat, portal }: Present): Promise<Pending | null> =>
    portal.ways.some((way) => way === 'mail' || way === 'phone' || way === 'sponsor')
      ? this.parts.asks.pending(seat)
      : null;

  /** The page of somebody as they stand. @param flaw why the last code that was sent did not do. */
  drawn(
    here: Present,
    standing: Standing | null,
    pending: Pending | null,
    typed: string,
    flaw: string | null = null,
  ): Drawn {
    const of = this.of(here);
    const texts = textsOf(here.language);
    if (standing?.blocked) return plainPage(texts.blocked);
    const opening = this.openingOf(here);
    if (!opening.open) return closedPage(of, opening.until);
    if (standing?.letIn) {
      if (!standing.told) return waitingPage(of, clock.now() - standing.begun > SOON_MS);
      const unproven = pending?.what === 'code' && pending.first ? { to: hidden(pending.to), flaw } : null;
      return donePage(of, standing, here.seat.url, unproven);
    }
    if (standing?.why === 'quota') return quotaPage(of, standing.resets!);
    if (pending?.what === 'code')
      return confirmPage(of, { to: hidden(pending.to), until: pending.until, wasIn: pending.first }, flaw);
    if (pending?.what === 'answer') return askedPage(of, pending);
    if (pending?.what === 'no') return refusedPage(of);
    if (standing?.why === 'rest') return restPage(of, standing.resets!, typed);
    const late = pending?.what === 'late' ? (pending.way === 'sponsor' ? texts.unanswered : texts.codeSpent) : null;
    const ended = { over: texts.over, idle: texts.idle };
    const why = standing?.why === 'over' || standing?.why === 'idle' ? ended[standing.why] : null;
    return welcomePage(of, flaw ?? late ?? why, typed);
  }

  private proofOf = (cookie: string): string => this.parts.secrets.print('guest form', cookie);

  private isOurs(context: Context, here: Present): boolean {
    const [sent, right] = [Buffer.from(formOf(context, 'proof')), Buffer.from(this.proofOf(here.cookie))];
    return sent.length === right.length && timingSafeEqual(sent, right);
  }
}

export function goTo(context: Context, path: string): void {
  context.status = 303;
  context.set('location', path);
  context.body = '';
}

/** Characters of a field of a form. */
const MOST_FIELD = 300;

/** What a field of a form holds; empty: nothing. */
export function formOf(context: Context, name: string): string {
  const body = ((context.request as { body?: unknown }).body ?? {}) as Readonly<Record<string, unknown>>;
  return Object.hasOwn(body, name) && typeof body[name] === 'string' ? body[name].slice(0, MOST_FIELD) : '';
}
