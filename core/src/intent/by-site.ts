import { sameValue } from '../base';

/** What something that sites share says of single sites, by their id. */
export type BySite = Readonly<Record<string, unknown>>;

const asked = (value: unknown): BySite => (value ?? {}) as BySite;

/** Sites that an edit of such a field speaks of: those that it saw, and those that it names. */
const spokenOf = (from: unknown, to: unknown): readonly string[] => [
  ...new Set([...Object.keys(asked(from)), ...Object.keys(asked(to))]),
];

/** Whether what an edit saw at the sites that it speaks of is still there; what others say does not matter to it. */
export const stillThere = (now: unknown, from: unknown, to: unknown): boolean =>
  spokenOf(from, to).every((id) => sameValue(asked(now)[id] ?? null, asked(from)[id] ?? null));

/** The field after an edit: sites that it saw and does not name are taken out, others that it does not speak of stay. */
export function putBySite(now: unknown, from: unknown, to: unknown): BySite | null {
  const next = { ...asked(now) };
  for (const id of spokenOf(from, to)) {
    const said = asked(to)[id] ?? null;
    if (said === null) delete next[id];
    else next[id] = said;
  }
  return Object.keys(next).length > 0 ? next : null;
}

/** What a field says of the sites that an edit speaks of: what the edit that takes it back has to bring. */
export const saidOf = (value: unknown, from: unknown, to: unknown): BySite =>
  Object.fromEntries(spokenOf(from, to).flatMap((id) => (id in asked(value) ? [[id, asked(value)[id]]] : [])));

/** An edit of a field without the sites at which it changes nothing. */
export function changedBySite(from: unknown, to: unknown): { readonly from: BySite; readonly to: BySite } {
  const ids = spokenOf(from, to).filter((id) => !sameValue(asked(from)[id] ?? null, asked(to)[id] ?? null));
  const of = (value: unknown): BySite =>
    Object.fromEntries(ids.flatMap((id) => (id in asked(value) ? [[id, asked(value)[id]]] : [])));
  return { from: of(from), to: of(to) };
}
