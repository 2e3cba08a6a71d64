import { classOfOthers, type ClassDocument, type SsidDocument } from './document';
import type { PortalDocument } from './portal';
import type { RadiusDocument } from './radius';

/** What an answer says of somebody who was let in. */
export interface SaidOf {
  readonly filterIds: readonly string[];
  readonly vlan: { readonly kind: 'id' | 'name' | 'none' | 'wrong'; readonly text: string };
}

/** What a device makes of it: a class of its own, nothing said, or something that it does not have. */
export type ClassSaid =
  | {
      readonly ok: true;
      readonly accessClass: ClassDocument | null;
      readonly by: 'filter' | 'vlan' | 'otherwise' | 'nothing';
    }
  | { readonly ok: false; readonly why: 'class' | 'vlan' | 'segment'; readonly said: string };

/** What an answer is looked up in. */
interface Nameable {
  readonly classes?: readonly ClassDocument[];
  readonly radius?: RadiusDocument;
}

const alike = (a: string, b: string): boolean => a.trim().toLowerCase() === b.trim().toLowerCase();

/** The portal that an answer names, which holds whoever is let in by that (Filter-Id, RFC 2865 §5.11); undefined: none. */
export const portalBySaid = (
  { radius }: Nameable,
  { filterIds }: Pick<SaidOf, 'filterIds'>,
): PortalDocument | undefined => radius?.portals?.find(({ name }) => filterIds.some((id) => alike(id, name)));

/** The Filter-Ids of an answer that can only mean a class: not those that name a portal and no class. */
export const classesSaid = (
  { classes = [], radius }: Nameable,
  { filterIds }: Pick<SaidOf, 'filterIds'>,
): readonly string[] =>
  filterIds.filter(
    (id) => classes.some(({ name }) => alike(id, name)) || !(radius?.portals ?? []).some(({ name }) => alike(id, name)),
  );

/**
 * The class that an answer chooses among those of a device. In this order: a Filter-Id that is the name of a class (RFC 2865 §5.11), else
 * the VLAN (RFC 3580 §3.31), by ID or by the name of the segment, whose class it then is; else the class of everybody else. A Filter-Id
 * may name a portal besides. What names none of them lets nobody in: nobody falls to another segment than the one that was meant.
 */
export function classBySaid(at: Nameable, said: SaidOf): ClassSaid {
  const { classes = [], radius } = at;
  const { vlan } = said;
  const filterIds = classesSaid(at, said);
  if (filterIds.length > 0) {
    const found = classes.find(({ name }) => filterIds.some((id) => alike(id, name)));
    if (!found) return { ok: false, why: 'class', said: filterIds[0]! };
    if (found.vlan === null) return { ok: false, why: 'segment', said: found.name };
    return { ok: true, accessClass: found, by: 'filter' };
  }
  if (vlan.kind === 'none') {
    const other = classOfOthers({ classes });
    if (!other) return { ok: true, accessClass: null, by: 'nothing' };
    if (other.vlan === null) return { ok: false, why: 'segment', said: other.name };
    return { ok: true, accessClass: other, by: 'otherwise' };
  }
  const id =
    vlan.kind === 'id'
      ? Number(vlan.text)
      : vlan.kind === 'name'
        ? radius?.segments.find(({ name }) => alike(name, vlan.text))?.vlan
        : undefined;
  const found = id === undefined ? undefined : classes.find((each) => each.vlan === id);
  return found ? { ok: true, accessClass: found, by: 'vlan' } : { ok: false, why: 'vlan', said: vlan.text };
}

/**
 * What an SSID that asks who somebody is makes of a yes: the class that it names, where classes count there, else the SSID's own segment.
 */
export const classOnSsid = (
  ap: Parameters<typeof classBySaid>[0],
  { byClass }: Pick<SsidDocument, 'byClass'>,
  said: SaidOf,
): ClassSaid => (byClass ? classBySaid(ap, said) : { ok: true, accessClass: null, by: 'nothing' });
