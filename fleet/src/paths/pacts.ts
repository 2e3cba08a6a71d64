import { contains, parseIp, parsePrefix, type IpAddress, type Prefix } from '@iron-lattice/core/address';
import type { PactDocument } from '@iron-lattice/core/document';
import { IKE_PORT, NAT_PORT, PACT_ASKS_SECONDS, PACT_LOSSES } from '@iron-lattice/core/ike';
import { MOST_AGREED_TOLD, type PactReport } from '@iron-lattice/core/line';
import { Rounds, type PactStep } from '@iron-lattice/core/paths';
import type { FarGateway } from './far-gateways';
import { IkeEnd, talk, type Stood, type Talked } from './ike-end';

/** A way to a gateway of others, or from it. */
export interface FarWay {
  readonly far: FarGateway;
  /** The uplink, and the address of the other. */
  readonly by: string;
  readonly to: string;
  /** Whether an address is translated on the way. */
  readonly translated: boolean;
  /** Milliseconds there and back; null: this time nothing came back. */
  readonly ms: number | null;
  /** Whether the other calls. */
  readonly called: boolean;
}
/** What a gateway finds outside. */
export interface FarOutside {
  /** A way to the gateway of others at an address; a sentence where there is none. */
  toward(at: string): FarWay | string;
  /** Gateways of others that call one of its uplinks. */
  callers(): readonly FarWay[];
}
/** Of a gateway that is alone in the world. */
export const NOBODY_FAR: FarOutside = { toward: () => 'Nobody is there.', callers: () => [] };

interface Kept {
  readonly pact: PactDocument;
  stood: Stood | null;
  step: PactStep;
  why: string;
  since: number;
  renewed: number;
  misses: number;
  way: FarWay | null;
  readonly rounds: Rounds;
}

/** The tunnels that a gateway keeps with gateways of others: how far each came, and what goes in. */
export class Pacts {
  private readonly kept = new Map<string, Kept>();
  private readonly prefixes: readonly { readonly prefix: Prefix; readonly name: string }[];
  private timers: readonly NodeJS.Timeout[] = [];

  /** @param before those that it had until now: what stays goes on. */
  constructor(
    pacts: readonly PactDocument[],
    private readonly secrets: Readonly<Record<string, string>>,
    private readonly outside: FarOutside,
    /** Some stand now, or do so no more, with why. */
    private readonly changed: (
      turned: { readonly down: readonly string[]; readonly up: readonly string[]; readonly why: string },
      at: number,
    ) => void,
    at: number,
    before?: Pacts,
  ) {
    for (const pact of pacts) {
      const old = before?.kept.get(pact.name);
      const stays = old && JSON.stringify(old.pact) === JSON.stringify(pact) ? old : undefined;
      this.kept.set(
        pact.name,
        stays ?? {
          ...{ pact, stood: null, step: 'finds', why: 'Nothing was heard yet.' },
          ...{ since: at, renewed: at, misses: 0, way: null, rounds: new Rounds() },
        },
      );
    }
    this.prefixes = pacts
      .flatMap(({ name, there }) => there.map((text) => ({ name, prefix: parsePrefix(text)! })))
      .sort((a, b) => b.prefix.length - a.prefix.length);
  }

  /** From now on it asks at its intervals. */
  begin(): void {
    const ask = (): void => this.ask(Date.now());
    this.timers = [setTimeout(ask, 0).unref(), setInterval(ask, PACT_ASKS_SECONDS * 1000).unref()];
  }

  stop(): void {
    for (const timer of this.timers) clearTimeout(timer);
  }

  /** One round: whoever stands is asked whether it is there, and with the others it is tried anew. */
  ask(at: number): void {
    const turned: { down: string[]; up: string[]; why: string } = { down: [], up: [], why: '' };
    let isOther = false;
    for (const kept of this.kept.values()) {
      const before = `${kept.step} ${kept.why} ${kept.way?.by}`;
      const stood = kept.stood !== null;
      if (stood) this.keep(kept, at);
      else this.settle(kept, this.tried(kept), at);
      if ((kept.stood !== null) !== stood) {
        kept.since = at;
        turned[stood ? 'down' : 'up'].push(kept.pact.name);
        if (stood) turned.why ||= kept.why;
      }
      isOther ||= `${kept.step} ${kept.why} ${kept.way?.by}` !== before;
    }
    if (isOther) this.changed(turned, at);
  }

  /** One that stands: whether the other is there (RFC 7296 §2.4), and keys that are due. */
  private keep(kept: Kept, at: number): void {
    const way = this.wayOf(kept);
    const heard = typeof way !== 'string' && way.ms !== null;
    kept.rounds.add(heard ? way.ms : null);
    kept.misses = heard ? 0 : kept.misses + 1;
    // By another uplink it begins anew: the address that it is known by is another.
    if (heard && (way.by !== kept.way?.by || way.to !== kept.way?.to)) return this.settle(kept, this.tried(kept), at);
    if (kept.misses >= PACT_LOSSES) {
      const why = typeof way === 'string' ? way : 'It answers no more.';
      return this.settle(kept, { step: 'finds', why }, at);
    }
    if (!heard || at - kept.renewed < kept.pact.lasts.esp * 1000) return;
    kept.renewed = at;
    if (new IkeEnd(way.far).renews(kept.pact.esp)) return;
    const why = 'Keys could not be made anew: both have no group for packets in common (NO_PROPOSAL_CHOSEN).';
    this.settle(kept, { step: 'packets', why }, at);
  }

  private settle(kept: Kept, found: Talked & { readonly way?: FarWay }, at: number): void {
    const { step, why = '', stood = null, way = null } = found;
    if (stood && !kept.stood) kept.renewed = at;
    Object.assign(kept, { step, why, stood, way, misses: 0 });
  }

  private wayOf({ pact: { at, other }, way }: Kept): FarWay | string {
    if (at !== undefined) return this.outside.toward(at);
    const callers = this.outside.callers();
    const found = callers.find(({ far }) => (way ? far.at === way.to : far.own.toLowerCase() === other.toLowerCase()));
    if (found) return found;
    const strange = callers.find(({ far }) => ![...this.kept.values()].some(({ pact }) => pact.other === far.own));
    return strange
      ? `It did not call. Somebody at ${strange.to} does, who names itself “${strange.far.own}”.`
      : 'It did not call.';
  }

  /** Both try to come to an agreement. */
  private tried(kept: Kept): Talked & { readonly way?: FarWay } {
    const way = this.wayOf(kept);
    if (typeof way === 'string') return { step: 'finds', why: way };
    if (way.ms === null) {
      const ports = `UDP ${IKE_PORT} or ${NAT_PORT}`;
      return {
        step: 'finds',
        why: `Nothing comes back from ${way.to} at ${ports}: it is silent, or something drops it.`,
      };
    }
    const { own, other, ike, esp, here, there, key } = kept.pact;
    const secret = this.secrets[key.secret];
    if (secret === undefined) return { step: 'proves', why: 'It was not told the key.' };
    const ours = new IkeEnd({ own, other, ike, esp, here, there, key: secret });
    const theirs = new IkeEnd(way.far);
    const talked = way.called ? talk(theirs, ours, 'called') : talk(ours, theirs, 'calls');
    return { ...talked, way };
  }

  /** What leads to an address: the longest prefix; null: none. */
  to(destination: IpAddress): { readonly prefix: Prefix; readonly name: string } | null {
    return this.prefixes.find(({ prefix }) => contains(prefix, destination)) ?? null;
  }

  /** The gateway of others that takes a packet out; a sentence where it is dropped. @param back whether it comes from there. */
  carries(name: string, source: string, target: string, back = false): FarGateway | string {
    const { stood, why, way } = this.kept.get(name)!;
    if (!stood || !way) return `The tunnel “${name}” does not stand: ${why}`;
    const [from, to] = back ? [stood.there, stood.here] : [stood.here, stood.there];
    const isIn = (all: readonly string[], address: string): boolean => {
      const ip = parseIp(address);
      return ip !== null && all.some((text) => contains(parsePrefix(text)!, ip));
    };
    if (isIn(from, source) && isIn(to, target)) return way.far;
    return `Dropped: both have not agreed that “${name}” carries ${source} to ${target}.`;
  }

  /** The tunnel by which a gateway of others comes in; undefined: none stands. */
  by = (far: string): string | undefined =>
    [...this.kept.values()].find(({ stood, way }) => stood && way?.far.name === far)?.pact.name;

  report(): PactReport[] {
    return [...this.kept.values()].map(({ pact: { name }, stood, step, why, since, way, rounds }): PactReport => {
      const { loss, delay } = rounds.over(20);
      return {
        ...{ name, up: stood !== null, since, step },
        ...(stood ? { agreed: toldOf(stood) } : { why }),
        ...(stood && way ? { by: way.by, to: way.to, ...(way.translated ? { translated: true as const } : {}) } : {}),
        ...(stood && rounds.count > 0 ? { loss: Number(loss.toFixed(2)) } : {}),
        ...(stood && delay !== null ? { delay: Number(delay.toFixed(1)) } : {}),
      };
    });
  }
}

const toldOf = ({ ike, esp, here, there }: Stood): NonNullable<PactReport['agreed']> => ({
  ...{ ike, esp, here: here.slice(0, MOST_AGREED_TOLD), there: there.slice(0, MOST_AGREED_TOLD) },
});
