import type { UserChecks } from '@iron-lattice/core/guests';
import { resolve } from '@iron-lattice/core/intent';
import { serverDocument } from '@iron-lattice/core/rollout';
import type { Sequelize } from 'sequelize';
import type { IntentService } from '../intent/intent.service';
import { AppError } from '../platform/app-error';
import type { EntryTeller } from '../roster/entry-offer';
import type { Proof, ProofAsked } from '../roster/user-offer';
import type { LivePortal } from './portals-live';
import { letInProven } from './proven-guest';
import type { Guest, VisitService } from './visit.service';

/** Questions of guests that devices ask servers at the same time: each holds a command for seconds. */
const MOST_ASKED = 50;

/** Guests who have a name and a password already: of users that the controller keeps, of its directory, or of RADIUS servers. */
export class UserWay {
  private asking = 0;

  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly visits: VisitService,
    private readonly prove: (asked: ProofAsked) => Promise<Proof>,
    private readonly entry: EntryTeller,
  ) {}

  /** Lets a guest in whose name and password are right. */
  async signIn(guest: Guest, live: LivePortal, name: string, password: string): Promise<Proof> {
    const { portal, timeZone } = live;
    const proof = await PROVE[portal.users ?? 'kept'](this, { ...guest, name, password, timeZone });
    if (proof !== 'right') return proof;
    await letInProven(this.database, this.visits, guest, live, 'user', { name, mail: null });
    return 'right';
  }

  kept = ({ name, password, mac, deviceId, timeZone }: Asked): Promise<Proof> =>
    this.prove({ name, password, mac, deviceId, timeZone });

  /** Has the AP that holds the guest ask the RADIUS servers of its site, as it would for a client that enters. */
  async servers({ name, password, mac, deviceId, siteId, place }: Asked): Promise<Proof> {
    if (this.asking >= MOST_ASKED) return 'later';
    const pair = await this.intents.pairNow(siteId);
    if (!pair) return 'later';
    const site = resolve(pair.estate, pair.site);
    const servers = site.radiusServers.map((server) => serverDocument(server, site.management.gateway));
    if (servers.length === 0) return 'later';
    this.asking++;
    try {
      const asked = { method: 'pap', user: name, password, mac, at: place } as const;
      const said = await this.entry({
        deviceId,
        siteId,
        estate: pair.estate,
        radius: { servers, segments: [] },
        asked,
      });
      const { end } = said.at(-1)?.exchange ?? {};
      if (end === 'accepted') return 'right';
      return end === 'rejected' || end === 'unkept' ? 'wrong' : 'later';
    } catch (error) {
      if (error instanceof AppError) return 'later'; // its AP does not answer
      throw error;
    } finally {
      this.asking--;
    }
  }
}

interface Asked extends Guest, Pick<ProofAsked, 'name' | 'password' | 'timeZone'> {}
const PROVE: Readonly<Record<UserChecks, (way: UserWay, asked: Asked) => Promise<Proof>>> = {
  kept: (way, asked) => way.kept(asked),
  servers: (way, asked) => way.servers(asked),
};
