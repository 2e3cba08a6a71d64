import type { ClassDocument } from '../document';
import { CLASS_TIMES, type ClassLimits } from '../intent';
import { capDocument } from './cap-document';
import { segmentsById } from './facts';
import { fact } from './reads';

/** What a device is told that asks who clients are. */
export const classDocuments = fact(
  { site: ['accessClasses'], facts: { byId: segmentsById } },
  ({ accessClasses, byId }) =>
    accessClasses.map(({ id, name, segmentId, members, otherwise, ...limits }): ClassDocument => {
      const segment = segmentId === null ? undefined : byId.get(segmentId);
      const isolated = segment?.isolation?.clients ? { isolated: true as const } : {};
      const known = members.map(({ mac }) => mac).sort();
      const rest = otherwise ? { otherwise: true as const } : {};
      return { id, name, vlan: segment?.vlan ?? null, members: known, ...rest, ...isolated, ...limitsOf(limits) };
    }),
  { settles: true },
);

/** What a class limits, as devices hold it. */
function limitsOf({ rate, ...times }: ClassLimits): Partial<ClassDocument> {
  const client = capDocument(rate, undefined);
  const seconds = CLASS_TIMES.flatMap((field) => {
    const minutes = times[field] ?? null;
    return minutes === null ? [] : [[field, minutes * 60] as const];
  });
  return { ...(client ? { client } : {}), ...Object.fromEntries(seconds) };
}
