import { classesSaid, type SaidOf } from './class-said';
import type { ApDocument, ClassDocument, SsidDocument } from './document';
import type { RadiusDocument } from './radius';
import type { KeyRefusal, RingDocument, RingKey, RingSegment } from './ring';

/** Where a key that is right leads: to a segment, or to a class; neither: it does not say. */
export interface KeyLed {
  readonly at?: RingSegment;
  readonly accessClass?: ClassDocument;
}
/** What a key comes to at an AP. */
export type KeyAnswer = ({ readonly ok: true } & KeyLed) | { readonly ok: false; readonly why: KeyRefusal };

/** An SSID that asks for keys, as an AP sends it: what they may lead to. */
export interface RingPlace {
  readonly ring: RingDocument;
  /** Null: classes do not count there. */
  readonly classes: readonly ClassDocument[] | null;
  readonly radius?: RadiusDocument;
}
export const ringPlace = (
  { classes = [], radius }: Pick<ApDocument, 'classes' | 'radius'>,
  { byClass }: Pick<SsidDocument, 'byClass'>,
  ring: RingDocument,
): RingPlace => ({ ring, classes: byClass ? classes : null, ...(radius ? { radius } : {}) });

/** A class that a key names; one that is not here, or has no segment here, leads nowhere. */
function toClass({ classes }: RingPlace, names: readonly string[]): KeyAnswer {
  const wanted = names.map((name) => name.trim().toLowerCase());
  const accessClass = classes?.find(({ name }) => wanted.includes(name.trim().toLowerCase()));
  return accessClass && accessClass.vlan !== null ? { ok: true, accessClass } : { ok: false, why: 'nowhere' };
}

/**
 * What a key comes to that a server names. In this order: a class by Filter-Id, where classes count (RFC 2865 §5.11); the segment that is
 * said with the key, by VLAN ID or by name; else the SSID’s own. What is none of the ring’s leads nowhere: nobody falls to another segment
 * than the one that was meant.
 */
export function serverKeyAnswer(place: RingPlace, said: SaidOf): KeyAnswer {
  const { kind, text } = said.vlan;
  const { segments } = place.ring;
  const { classes, radius } = place;
  const named = classes ? classesSaid({ classes, ...(radius ? { radius } : {}) }, said) : [];
  if (named.length > 0) return toClass(place, named);
  if (kind === 'none') return { ok: true };
  const wanted = text.trim().toLowerCase();
  const at =
    kind === 'id'
      ? segments.find(({ vlan }) => vlan === Number(text))
      : kind === 'name'
        ? segments.find(({ name }) => name.toLowerCase() === wanted)
        : undefined;
  return at ? { ok: true, at } : { ok: false, why: 'nowhere' };
}

/** Whether a key is right at a moment, written as `2026-12-31 10:59` by the site's clock. */
export const isKeyEarly = ({ from }: Pick<RingKey, 'from'>, now: string): boolean =>
  from !== undefined && now.slice(0, from.length) < from;
export const isKeyOver = ({ until }: Pick<RingKey, 'until'>, now: string): boolean =>
  until !== undefined && now.slice(0, until.length) > until;

/**
 * What a key of a ring comes to for a client.
 * @param mac canonical text. @param now as `2026-12-31 10:59`, by the site's clock. @param others devices that the AP has with this key already.
 */
export function keyAnswer(
  place: RingPlace,
  key: RingKey,
  { mac, now, others }: { readonly mac: string; readonly now: string; readonly others: number },
): KeyAnswer {
  if (isKeyEarly(key, now)) return { ok: false, why: 'early' };
  if (isKeyOver(key, now)) return { ok: false, why: 'over' };
  if (key.macs && !key.macs.includes(mac)) return { ok: false, why: key.full ? 'devices' : 'bound' };
  if (key.most !== undefined && others >= key.most) return { ok: false, why: 'devices' };
  if (key.accessClass !== undefined) return toClass(place, [key.accessClass]);
  if (key.segment === undefined) return { ok: true };
  const wanted = key.segment.toLowerCase();
  const at = place.ring.segments.find(({ name }) => name.toLowerCase() === wanted);
  return at ? { ok: true, at } : { ok: false, why: 'nowhere' };
}
