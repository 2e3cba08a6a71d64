import { waysOf, type AskingWay, type ClassDocument, type PortDocument } from '../document';

/** What came of one way of finding out who somebody is. @template W why not. */
export type PortTried<W> =
  /** It is known; null: no class was named for it. */
  | { readonly state: 'in'; readonly accessClass: ClassDocument | null }
  /** It does not say who it is. */
  | { readonly state: 'mute' }
  | { readonly state: 'not'; readonly why: W }
  /** No server answers, or none is to be asked. */
  | { readonly state: 'unanswered'; readonly why: W }
  /** It is being found out. */
  | { readonly state: 'asking' };

/** Why a client is in a segment of its port’s for those that got no other. */
export type Fell = 'guest' | 'rejected' | 'unanswered';

/** What becomes of a client at a port that asks. */
export interface AtPort<W> {
  /** Null: it is not let in. */
  readonly vlan: number | null;
  readonly accessClass?: ClassDocument;
  readonly fell?: Fell;
  /** The way that let it in. */
  readonly way?: AskingWay;
  /** Why not, where that is known. */
  readonly why?: W | 'mute' | 'nothing' | 'segment';
  /** Its frames carry the tag of their VLAN. */
  readonly tagged?: true;
}

/**
 * What becomes of a client at a port that asks (IEEE 802.1X-2020 §6.4 and §7.1): its ways are tried in their order, and the first that knows
 * it counts. Whom none knows is put into the port’s segment for those whom no server answers about, who are turned away, or who do not say
 * who they are; the first of these that applies. @param tries each way, when it is its turn.
 */
export function entersPort<W>(port: PortDocument, tries: Readonly<Record<AskingWay, () => PortTried<W>>>): AtPort<W> {
  const ways = waysOf(port.auth);
  if (ways.length === 0) return { vlan: port.untagged };
  const failed: Exclude<PortTried<W>, { state: 'in' | 'asking' }>[] = [];
  for (const way of ways) {
    const tried = tries[way]();
    if (tried.state === 'asking') return { vlan: null };
    if (tried.state === 'in') return inBy(port, way, tried.accessClass);
    failed.push(tried);
  }
  const unanswered = failed.find((each) => each.state === 'unanswered');
  if (unanswered) return fallen(port, 'unanswered', unanswered.why);
  // Who does not say who it is, and whose MAC address is not known either, is a guest rather than somebody who was turned away.
  if (failed.some(({ state }) => state === 'mute')) return fallen<W>(port, 'guest', 'mute');
  const [turnedAway] = failed.flatMap((each) => (each.state === 'not' ? [each.why] : []));
  return fallen(port, 'rejected', turnedAway!);
}

function inBy<W>(port: PortDocument, way: AskingWay, accessClass: ClassDocument | null): AtPort<W> {
  if (!accessClass) return port.untagged === null ? { vlan: null, why: 'nothing' } : { vlan: port.untagged, way };
  const { vlan } = accessClass;
  if (vlan === null) return { vlan, accessClass, why: 'segment' };
  return { vlan, accessClass, way, ...(port.hosts === 'phone' && vlan === port.voice ? { tagged: true } : {}) };
}

const fallen = <W>(port: PortDocument, fell: Fell, why: W | 'mute'): AtPort<W> => {
  const vlan = port[fell];
  return vlan === undefined ? { vlan: null, why } : { vlan, fell, why };
};

/** Whether somebody still fits at a port: of several any, else one, and besides it one desk phone where that is wanted. @param there who is in already. */
export function fitsPort(
  { hosts }: Pick<PortDocument, 'hosts'>,
  there: readonly { readonly tagged?: true }[],
  { tagged }: { readonly tagged?: true },
): boolean {
  if (hosts === undefined) return true;
  return !there.some((each) => (hosts === 'phone' ? each.tagged === tagged : true));
}
