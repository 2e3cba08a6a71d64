import type { ApDocument } from '@iron-lattice/core/document';
import type { OnAir } from '../air/on-air';
import type { Box, HangsOn } from './box';
import type { Plant } from './plant';

/** An AP that hangs somewhere, and what a megabit takes on the whole way, in seconds of air. */
interface Rooted {
  readonly hops: number;
  readonly airtime: number;
}

/** APs that hang on others by radio: each finds its parent by itself, among those that its document lets it. */
export class Hanging {
  constructor(
    private readonly plant: Plant,
    private readonly air: OnAir,
  ) {}

  /** Has the APs of an island look again what they hang on. */
  settle(island: readonly Box[]): void {
    const aps = island.filter(({ document, powered }) => document.kind === 'ap' && powered);
    // One that lost its power hangs nowhere any more, though it asks for nothing either.
    if (!island.some(({ hangs }) => hangs !== null) && !aps.some(({ document }) => wish(document) !== null)) return;
    const rooted = new Map<Box, Rooted>();
    const found = new Map<Box, HangsOn>();
    const seeking = aps.filter((box) => {
      const asks = wish(box.document);
      if (asks && (asks.when === 'always' || !this.plant.hasCable(box))) return true;
      if (this.plant.hasCable(box)) rooted.set(box, { hops: 0, airtime: 0 });
      return false;
    });
    this.grow(seeking, rooted, found);
    // Who is to hang by radio and finds nobody takes its cable, rather than be away; and others may hang on it then.
    const back = seeking.filter((box) => !found.has(box) && this.plant.hasCable(box));
    for (const box of back) rooted.set(box, { hops: 0, airtime: 0 });
    if (back.length > 0)
      this.grow(
        seeking.filter((box) => !rooted.has(box)),
        rooted,
        found,
      );
    for (const box of island) {
      box.hung = [];
      if (!found.has(box)) this.set(box, null);
    }
    // From the cables outwards, so that each finds its parent where that sends by now.
    for (const [box, hangs] of found) {
      this.set(box, hangs);
      hangs.on.hung.push(box);
    }
  }

  private set(box: Box, hangs: HangsOn | null): void {
    const { hangs: before } = box;
    const stays = before && hangs && before.on === hangs.on && before.band === hangs.band;
    box.hangs = hangs && { ...hangs, since: stays ? before.since : Date.now() };
    if (before && (!hangs || before.band !== hangs.band)) this.air.follow(box.device.serial, before.band, null);
    if (!hangs) return;
    const [serial, parent] = [box.device.serial, hangs.on.device.serial];
    this.air.follow(serial, hangs.band, parent);
    const link = this.air.between(parent, serial, hangs.band);
    if (link && box.hangs) box.hangs = { ...box.hangs, ...link };
  }

  /** Lets those that seek hang on those that hang: where each hung before, else over the shortest way. */
  private grow(seeking: readonly Box[], rooted: Map<Box, Rooted>, found: Map<Box, HangsOn>): void {
    for (let grown = true; grown;) {
      grown = false;
      let best: { box: Box; offer: HangsOn & { airtime: number } } | null = null;
      for (const box of seeking) {
        if (found.has(box)) continue;
        for (const [on, root] of rooted) {
          const offer = this.offer(box, on, root);
          const stays = offer !== null && box.hangs?.on === on;
          if (!offer || (best && !stays && best.offer.airtime <= offer.airtime)) continue;
          best = { box, offer: stays ? { ...offer, airtime: 0 } : offer };
        }
      }
      if (!best) continue;
      const { box, offer } = best;
      const root = rooted.get(offer.on)!;
      rooted.set(box, { hops: offer.hops, airtime: root.airtime + 1 / offer.rate });
      const { airtime: _airtime, ...hangs } = offer;
      found.set(box, hangs);
      grown = true;
    }
  }

  /** How one AP could hang on another that hangs. */
  private offer(box: Box, on: Box, { hops, airtime }: Rooted): (HangsOn & { airtime: number }) | null {
    const asks = wish(box.document)!;
    const [mine, theirs] = [box, on].map(meshOf);
    if (!theirs?.carries || box === on || hops + 1 > asks.hops) return null;
    if (asks.parents && !asks.parents.includes(on.device.serial)) return null;
    // Each proves to the other that it has the key of the site.
    const [key, other] = [box.secrets[mine!.key.secret], on.secrets[theirs.key.secret]];
    if (key === undefined || key !== other) return null;
    const link = this.air.between(on.device.serial, box.device.serial, asks.band);
    if (!link) return null;
    const { band } = asks;
    return { on, band, ...link, hops: hops + 1, since: Date.now(), airtime: airtime + 1 / link.rate };
  }
}

const meshOf = ({ document }: Pick<Box, 'document'>): ApDocument['mesh'] =>
  document.kind === 'ap' ? document.mesh : undefined;
const wish = (document: Box['document']) => meshOf({ document })?.hang ?? null;
