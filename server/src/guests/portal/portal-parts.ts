import type { IncomingMessage } from 'node:http';
import type { Logger } from 'pino';
import type { SecretService } from '../../intent/secret.service';
import type { Caller } from '../../platform/caller-address';
import type { AccountWay } from '../accounts/account-way';
import type { AnswerService } from '../asking/answer.service';
import type { AskService } from '../asking/ask.service';
import type { PictureService } from '../pictures/picture.service';
import type { KnownGuests } from '../known-guests';
import type { LivePortals } from '../portals-live';
import type { UserWay } from '../user-way';
import type { VisitService } from '../visit.service';
import type { CaptiveService } from './captive.service';
import type { Limits } from './limits';
import type { Seat, SeatService } from './seat.service';

/** What the portal’s origin is made of. */
export interface PortalParts {
  readonly seats: SeatService;
  readonly visits: VisitService;
  readonly known: KnownGuests;
  readonly portals: LivePortals;
  readonly asks: AskService;
  readonly answers: AnswerService;
  readonly captive: CaptiveService;
  readonly users: UserWay;
  readonly accounts: AccountWay;
  readonly pictures: Pick<PictureService, 'read'>;
  /** How often codes may be given wrongly, and links that are not right opened. */
  readonly tries: Limits<Pick<Seat, 'mac' | 'deviceId' | 'portalId'>>;
  readonly links: Limits<string>;
  readonly secrets: Pick<SecretService, 'print'>;
  /** Who sends a request. */
  readonly callerOf: (request: IncomingMessage) => Caller;
  /** Writes down that so many codes were wrong that no more may be tried. */
  readonly guessed: (seat: Seat) => Promise<void>;
  /** Writes down that so many links were none of ours. */
  readonly forged: (ip: string) => Promise<void>;
  readonly log: Logger;
  /** Whether guests come by HTTPS. */
  readonly secure: boolean;
}
