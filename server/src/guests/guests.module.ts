import { localMoment } from '@iron-lattice/core/rules';
import { callerOf } from '../platform/caller-address';
import { note } from '../platform/journal';
import { listen, type Listening } from '../platform/listen';
import { StartRefusal } from '../platform/start-refusal';
import { GUESTS, GUESTS_ERASED } from '../roster/guest-offer';
import type { Stage } from '../stage';
import { MAIL, type Mailer } from '../roster/mail-offer';
import { GUEST_FACTS } from '../roster/guest-facts-offer';
import { SENDING } from '../roster/sending-offer';
import { TEXTS, type Texter } from '../roster/text-offer';
import { ENTRY } from '../roster/entry-offer';
import { CLIENT_HOSTS } from '../roster/client-names-offer';
import { CLIENTS, USER_PROOF } from '../roster/user-offer';
import { AccountWay } from './accounts/account-way';
import { AnswerService } from './asking/answer.service';
import { AskLetters } from './asking/ask-letters';
import { AskLinks } from './asking/ask-links';
import { AskService } from './asking/ask.service';
import { CodeLetters } from './code-letters';
import { CodeListService } from './code-list.service';
import { CodeService } from './code.service';
import { GuestFactsReader } from './guest-facts';
import { GuestLines } from './guest-lines';
import { GuestUse } from './guest-use';
import { GuestNetworkService } from './guest-network.service';
import { guestNetworkRoutes, guestRoutes } from './guests.routes';
import * as first from './migrations/0020-guests';
import * as second from './migrations/0025-asking';
import * as third from './migrations/0026-pictures';
import * as fourth from './migrations/0027-limits';
import * as fifth from './migrations/0028-known';
import { pictureRoutes } from './pictures/picture.routes';
import { PictureService } from './pictures/picture.service';
import { IdleVisits } from './idle-visits';
import { JustSeen } from './just-seen';
import { KnownGuests } from './known-guests';
import { LivePortals } from './portals-live';
import { CaptiveService } from './portal/captive.service';
import { DeviceKeys } from './portal/device-keys';
import { placeOf } from './portal/guest-place';
import { portalApp } from './portal/portal-app';
import { slipRoutes } from './slips/slip.routes';
import { SeatService } from './portal/seat.service';
import { ASK_LIMITS, CONTACT_LIMITS, LINK_LIMITS, SPONSOR_LIMITS, TRY_LIMITS } from './portal/guest-limits';
import { Limits } from './portal/limits';
import { DeskService } from './reception/desk.service';
import { deskRoutes, receptionistRoutes } from './reception/reception.routes';
import { ReceptionistService } from './reception/receptionist.service';
import { UserWay } from './user-way';
import { VisitList } from './visit-list';
import { VisitService } from './visit.service';

/** For how long clients are kept. */
const DAYS = 'make_interval(days => (SELECT days FROM register_keeping))';

export const guests: Stage = {
  name: 'guests',
  heavy: new URL('./guests.heavy.ts', import.meta.url),
  migrations: [first, second, third, fourth, fifth],
  housekeeping: [
    // A visit that is over is: a new one may begin. What is kept of it is kept as the register keeps clients.
    `UPDATE visit SET ended_at = until WHERE ended_at IS NULL AND until < now() - interval '1 hour'`,
    `DELETE FROM visit WHERE ended_at < now() - ${DAYS} OR ended_at IS NOT NULL AND NOT client_is_kept(device_id, place)`,
    `DELETE FROM guest_use WHERE last_at < now() - ${DAYS}`,
    // What nobody was let in by is kept for a day, else as long as its visits.
    `DELETE FROM guest_ask a WHERE a.until < now() - interval '1 day' AND NOT EXISTS (SELECT 1 FROM visit v WHERE v.ask_id = a.id)`,
    `DELETE FROM portal_seat WHERE at < now() - interval '1 day'`,
    `DELETE FROM visit_code WHERE COALESCE(revoked_at, CASE WHEN runs = 'made' THEN made_at + seconds * interval '1 second'
       ELSE COALESCE(used_at + seconds * interval '1 second', use_by) END) < now() - interval '30 days'`,
  ],
  open: ({
    offers,
    config,
    database,
    pool,
    intents,
    drafts,
    reviews,
    heavy,
    secrets,
    sessions,
    lines,
    bus,
    log,
    failed,
  }) => {
    const portals = new LivePortals(database, intents, drafts);
    const codes = new CodeService(database, secrets, bus);
    const seen = new JustSeen();
    const visits = new VisitService(database, portals, codes, bus, seen, failed);
    const idle = new IdleVisits(database, visits, failed);
    const known = new KnownGuests(database, portals, visits);
    const guestLines = new GuestLines(database, visits, known, lines, bus, failed);
    const use = new GuestUse(database, guestLines.at, failed);
    lines.listen({
      guests: (speaker, frame) => guestLines.heard(speaker, frame),
      reported: async (speaker, { taken = [] }) => use.reported(speaker, taken),
      left: async (speaker) => {
        guestLines.left(speaker);
        use.left(speaker);
      },
    });
    offers.make(GUESTS, async (portalId, siteId, mac) => {
      const live = await portals.at(siteId, portalId);
      const standing = live && (await visits.standing(portalId, mac, live));
      if (!standing) return null;
      const { letIn, why, until, left, slowed = false } = standing;
      return { letIn, why, left, slowed, until: localMoment(until, live.timeZone) };
    });
    offers.make(GUESTS_ERASED, (macs, transaction) => visits.erase(macs, transaction));
    let origin: Listening | null = null;
    const originUrl = (): string => (config.portalUrl ?? origin?.url ?? '').replace(/\/+$/, '');
    const facts = new GuestFactsReader(database, () => offers.take(SENDING)(), originUrl);
    offers.make(GUEST_FACTS, facts.now);
    bus.on('live', ({ type }) => {
      if (type === 'mail') facts.forget();
      if (type === 'rollout') portals.forget();
    });
    const mailed: Mailer = (letter, personId) => offers.take(MAIL)(letter, personId);
    const texted: Texter = (message, personId) => offers.take(TEXTS)(message, personId);
    const codeLetters = new CodeLetters(database, intents, secrets, originUrl, mailed, texted);
    const list = new VisitList(
      ...([database, portals] as const),
      (macs) => offers.take(CLIENT_HOSTS)(macs),
      (words, most) => offers.take(CLIENTS)(words, most),
    );
    const desk = new DeskService(database, codes, visits, list, portals, originUrl);
    const links = new AskLinks(secrets);
    const letters = new AskLetters(
      mailed,
      texted,
      (row, at) => `${originUrl()}/answer/${links.tokenOf(row, at)}`,
      failed,
    );
    const tries = new Limits(pool, TRY_LIMITS);
    const asks = new AskService(database, secrets, visits, letters, {
      ...{ tries, asks: new Limits(pool, ASK_LIMITS) },
      ...{ contacts: new Limits(pool, CONTACT_LIMITS), sponsors: new Limits(pool, SPONSOR_LIMITS) },
    });
    const pictures = new PictureService(database);
    const users = new UserWay(
      ...([database, intents, visits] as const),
      (asked) => offers.take(USER_PROOF)(asked),
      (question) => offers.take(ENTRY)(question),
    );
    const keys = new DeviceKeys(database);
    const captive = new CaptiveService(keys, portals, visits, secrets, originUrl, (...at) => placeOf(database, ...at));
    const answers = new AnswerService(database, links, portals, visits, letters);
    return {
      routes: [
        ...guestNetworkRoutes(new GuestNetworkService(drafts, reviews, heavy, originUrl)),
        ...pictureRoutes(pictures),
        ...slipRoutes(heavy),
        ...guestRoutes(
          codes,
          visits,
          list,
          new CodeListService(database, drafts, codes, heavy),
          originUrl,
          codeLetters,
        ),
        ...receptionistRoutes(new ReceptionistService(database, sessions, bus)),
        ...deskRoutes(desk, codes, visits, codeLetters),
      ],
      begin: async () => {
        idle.begin();
        const { host, portalPort: port, portalUrl, portalTls: tls } = config;
        if (port === null) return;
        const app = portalApp({
          ...{
            seats: new SeatService(database, keys, seen),
            users,
            accounts: new AccountWay(database, visits, secrets, originUrl, (error) =>
              log.info({ why: String(error) }, 'whoever keeps accounts did not answer as it should'),
            ),
            captive,
            visits,
            known,
            portals,
            asks,
            answers,
            pictures,
            tries,
            secrets,
            log,
          },
          callerOf: (request) => callerOf(request, config.proxies),
          links: new Limits(pool, LINK_LIMITS),
          guessed: ({ portalId, siteId, deviceId, mac }) =>
            note(database, null, 'guests.guessing', { portalId, siteId, mac }, undefined, deviceId),
          forged: (address) => note(database, null, 'guests.forged', { address }),
          secure: portalUrl?.startsWith('https:') ?? tls !== null,
        });
        origin = await listen(app.callback(), { host, port, tls }).catch((error: NodeJS.ErrnoException) => {
          if (error.code !== 'EADDRINUSE') throw error;
          throw new StartRefusal(
            `Port ${port}, at which guests sign in, is taken. Stop what listens there, or set LATTICE_PORTAL_PORT.`,
          );
        });
        lines.answersAt({ portal: originUrl() });
      },
      end: async () => {
        idle.end();
        await origin?.close();
        visits.close();
      },
      settle: () => use.close(),
    };
  },
};
