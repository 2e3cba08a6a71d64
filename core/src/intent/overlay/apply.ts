import { formatPrefix, overlaps, parsePrefix } from '../../address';
import { flaw, sameValue, type Flaw } from '../../base';
import { refuse, type Outcome } from '../edit';
import type { Intent } from '../part';
import type { OverlayOperation } from './operations';
import { isIn } from './spans';

/** Applies an edit of what tunnels between sites have in common. */
export function applyOverlay(intent: Intent, operation: OverlayOperation): Outcome<OverlayOperation> {
  const { from, to } = operation;
  const { overlay: now = null, ...rest } = intent.estate;
  if (!sameValue(now, from)) return refuse(flaw('overlay.changed', 'Somebody changed it meanwhile.', 'spans'));
  const next = to && { spans: to.spans.map(normal) };
  const flaws = next ? checkSpans(next.spans) : [];
  if (flaws.length > 0) return refuse(...flaws);
  const { members = [] } = rest;
  if (!next && members.length > 0)
    return refuse(flaw('overlay.in-use', `${members.length} sites are joined. Take them out first.`));
  const left =
    next && Object.values(rest.joins ?? {}).find(({ carries }) => carries.some((each) => !isIn(each, next.spans)));
  if (left) {
    const text = left.carries.find((each) => !isIn(each, next.spans))!;
    return refuse(
      flaw('overlay.left-out', `${text} of ${left.name} would be left out: others would not find it.`, 'spans'),
    );
  }
  const estate = next ? { ...rest, overlay: next } : rest;
  return { ok: true, intent: { ...intent, estate }, inverse: { type: 'overlay.set', from: next, to: now } };
}

const normal = (text: string): string => {
  const prefix = parsePrefix(text.trim());
  return prefix ? formatPrefix(prefix) : text.trim();
};

function checkSpans(spans: readonly string[]): Flaw[] {
  if (spans.length === 0)
    return [flaw('overlay.none', 'Say where your sites’ networks are: such as 10.0.0.0/8.', 'spans')];
  const read = spans.map((text) => [text, parsePrefix(text)] as const);
  const bad = read.find(([, prefix]) => !prefix);
  if (bad) return [flaw('overlay.prefix', `“${bad[0]}” is no prefix: such as 10.0.0.0/8, or fd00:20::/32.`, 'spans')];
  const all = read.find(([, prefix]) => prefix!.length === 0);
  if (all) return [flaw('overlay.everything', `${all[0]} is everybody’s: say where your own networks are.`, 'spans')];
  for (const [i, [text, prefix]] of read.entries()) {
    const other = read.slice(0, i).find(([, each]) => overlaps(each!, prefix!));
    if (other) return [flaw('overlay.twice', `${other[0]} and ${text} are in part the same.`, 'spans')];
  }
  return [];
}
