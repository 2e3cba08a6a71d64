/** Whether a number may be a VLAN ID: 0 marks a priority tag and 4095 is reserved (IEEE 802.1Q-2022 §9.6). */
export const isVlanId = (id: number): boolean => Number.isInteger(id) && id >= 1 && id <= 4094;

export type VlanListError = 'empty' | 'syntax' | 'out_of_range' | 'reversed';
export type VlanList =
  | { readonly ok: true; readonly ids: readonly number[]; readonly canonical: string }
  | { readonly ok: false; readonly error: VlanListError };

/**
 * Reads a list such as `2,30-32, 40`. Blanks and tabs around numbers are fine; numbers have one to four digits
 * without a leading zero. Duplicates merge. The first faulty item decides the error.
 */
export function parseVlanList(text: string): VlanList {
  if (text.trim() === '') return { ok: false, error: 'empty' };
  const ids = new Set<number>();
  for (const item of text.split(',')) {
    const match = /^[ \t]*(0|[1-9]\d{0,3})[ \t]*(?:-[ \t]*(0|[1-9]\d{0,3})[ \t]*)?$/.exec(item);
    if (!match) return { ok: false, error: 'syntax' };
    const first = Number(match[1]);
    const last = Number(match[2] ?? match[1]);
    if (!isVlanId(first) || !isVlanId(last)) return { ok: false, error: 'out_of_range' };
    if (last < first) return { ok: false, error: 'reversed' };
    for (let id = first; id <= last; id++) ids.add(id);
  }
  const sorted = [...ids].sort((a, b) => a - b);
  return { ok: true, ids: sorted, canonical: formatVlanList(sorted) };
}

/** Writes VLAN IDs as an ascending list with neighbours joined: 1,2,3,5 as `1-3,5`. */
export function formatVlanList(ids: readonly number[]): string {
  const runs: [number, number][] = [];
  for (const id of [...new Set(ids)].sort((a, b) => a - b)) {
    const run = runs[runs.length - 1];
    if (run && id === run[1] + 1) run[1] = id;
    else runs.push([id, id]);
  }
  return runs.map(([first, last]) => (first === last ? `${first}` : `${first}-${last}`)).join(',');
}
