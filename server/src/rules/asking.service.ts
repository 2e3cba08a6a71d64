import {
  ALL_UP,
  acrossTo,
  addressesOfSegment,
  eitherWay,
  endNamesAt,
  hostNamesIn,
  joinAnswers,
  saidElsewhere,
  type Answer,
  type Asked,
  type ReachInput,
  type Unanswered,
} from '@iron-lattice/core/assess';
import { formatIp } from '@iron-lattice/core/address';
import { flaw } from '@iron-lattice/core/base';
import { segmentWith } from '@iron-lattice/core/intent';
import { momentAt } from '@iron-lattice/core/rules';
import type { Sequelize } from 'sequelize';
import type { DraftService } from '../intent/draft.service';
import { clock } from '../platform/clock';
import type { Heavy } from '../platform/heavy';
import type { AwayTeller, LedAway } from '../roster/asking-offer';
import { tunnelsTold, tunnelsUp } from '../roster/tunnels-told';
import { lookUp } from './name-lookup';
import type { QuestionAsked } from './rules.heavy';

/** A question, and what is compared with instead of what is live. */
type Question = QuestionAsked & { readonly then?: string };

/** Answers questions about who reaches whom: at a site, and from one to another, whose gateways both judge. */
export class AskingService {
  /** @param input what a site’s reach is read from. */
  constructor(
    private readonly database: Sequelize,
    private readonly drafts: Pick<DraftService, 'open'>,
    private readonly heavy: Pick<Heavy, 'run'>,
    private readonly input: (draftId: string, siteId: string, then?: string) => Promise<ReachInput>,
  ) {}

  async ask(draftId: string, siteId: string, asked: Question): Promise<Answer | Unanswered> {
    const { intent } = await this.drafts.open(draftId);
    const said = [asked.question.from, asked.question.to].map((text) => saidElsewhere(text, intent.sites.values()));
    const [from, to] = said;
    const start = from?.siteId ?? siteId;
    // Whatever is not at the site where the question begins is asked for by its addresses.
    const end = to ?? (start === siteId ? null : { siteId, site: 'here', name: asked.question.to });
    const away = end !== null && end.siteId !== start;
    const addresses = away ? addressesOfSegment(intent.sites.get(end.siteId)!, end.name) : null;
    if (to && away && addresses === null)
      return { flaws: [flaw('ask.segment', `${to.site} has no segment “${to.name}”.`, 'to')] };
    const question = {
      ...asked.question,
      from: from?.name ?? asked.question.from,
      to: addresses ?? end?.name ?? asked.question.to,
    };
    const answer = await this.across(draftId, start, { ...asked, question });
    if ('flaws' in answer || said.every((each) => each === null)) return answer;
    const { from: a, to: b } = asked.question;
    return { ...answer, understood: answer.understood.replace(/^Can .* reach .* on /, `Can ${a} reach ${b} on `) };
  }

  /** What becomes of a web page that is asked for through a tunnel, from there on: the way to the other site, and what its gateway makes of it. */
  async away({ siteId, from, to, on, draftId, then }: LedAway): Promise<Awaited<ReturnType<AwayTeller>>> {
    const question = { from, to, services: 'tcp 443' };
    const asked = { question, on, minute: null, ...(then === undefined ? {} : { then }) };
    const here = await this.at(draftId, siteId, asked);
    if ('flaws' in here || !here.follows) return null;
    const { intent, live } = await this.drafts.open(draftId);
    const estate = (on === 'live' ? live.pairs.get(siteId)?.estate : undefined) ?? intent.estate;
    const up = on === 'live' ? eitherWay(tunnelsUp(estate, await tunnelsTold(this.database))) : ALL_UP;
    const way = acrossTo(estate, siteId, here.follows, to, up);
    if (!way) return null;
    if (!way.passed) return { siteId: way.siteId, steps: way.steps };
    const there = await this.at(draftId, way.siteId, { ...asked, follow: here.follows });
    if ('flaws' in there) return { siteId: way.siteId, steps: way.steps };
    const { steps } = way;
    return { siteId: way.siteId, steps: [...steps, ...there.there, ...there.back.filter(({ passed }) => !passed)] };
  }

  /** At a site, and at the one that its packets are led to through tunnels. */
  private async across(draftId: string, siteId: string, asked: Question): Promise<Answer | Unanswered> {
    const here = await this.at(draftId, siteId, asked);
    if ('flaws' in here) return here;
    const { follows, led } = here;
    if (!follows || !led) return plain(here);
    const { intent, live } = await this.drafts.open(draftId);
    const pair = asked.on === 'live' ? live.pairs.get(siteId) : undefined;
    const { estate, site } = pair ?? { estate: intent.estate, site: intent.sites.get(siteId)! };
    const up = asked.on === 'live' ? eitherWay(tunnelsUp(estate, await tunnelsTold(this.database))) : ALL_UP;
    const way = acrossTo(estate, siteId, follows, asked.question.to, up);
    if (!way) return plain(here);
    if (!way.passed) return joinAnswers(plain(here), way, null);
    const [source, target] = [follows.source, follows.destination].map((value) =>
      formatIp({ version: follows.version, value }),
    ) as [string, string];
    const segment = segmentWith(site.segments, source);
    const from = (segment && addressesOfSegment(site, segment.name)) ?? source;
    const question = { ...asked.question, from, to: way.whole ? asked.question.to : target };
    const there = await this.at(draftId, way.siteId, { ...asked, question });
    if ('flaws' in there) return there;
    // What is stopped there, where some is, is followed from where it begins.
    const again = there.follows ? await this.at(draftId, siteId, { ...asked, follow: there.follows }) : here;
    return joinAnswers(plain('flaws' in again ? here : again), way, plain(there));
  }

  private async at(draftId: string, siteId: string, { then, ...asked }: Question): Promise<Asked | Unanswered> {
    const input = await this.input(draftId, siteId, then);
    // Without a time, people mean now.
    const minute = asked.minute ?? momentAt(clock.now(), input.site.timeZone);
    // What clients use as name servers may say otherwise: the answer tells what was taken.
    const known = endNamesAt(input.site, input.roster);
    const { from, to } = asked.question;
    const names = [...new Set([from, to].flatMap((text) => hostNamesIn(text, known)))];
    const lookedUp = names.length === 0 ? [] : await lookUp(names);
    const unknown = lookedUp.find(({ addresses }) => addresses.length === 0);
    if (unknown) {
      const message = `The controller’s name servers know no address of ${unknown.name}. Ask with its address.`;
      return { flaws: [flaw('ask.name', message)] };
    }
    return this.heavy.run('ask', input, { ...asked, minute, ...(lookedUp.length > 0 ? { lookedUp } : {}) });
  }
}

/** An answer without what only we ask on with: numbers of any size cannot be sent. */
const plain = ({ follows: _follows, led: _led, ...answer }: Asked): Answer => answer;
