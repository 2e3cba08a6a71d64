import { reaches, type EstatePart } from '../intent';
import type { GroupClass } from './entry.contract';

/** Classes of groups that reach a site. */
export const groupClassesAt = ({ classes = [] }: EstatePart, siteId: string): GroupClass[] =>
  classes.flatMap(({ name, groups, reach }) => (groups && reaches(reach, siteId) ? [{ name, groups }] : []));

/** The class that a user’s groups lead to: that of the first group which has one; null: none has. */
export function classOfGroups(groups: readonly string[], classes: readonly GroupClass[]): string | null {
  for (const group of groups) {
    const key = group.toLowerCase();
    const found = classes.find((each) => each.groups.some((one) => one.toLowerCase() === key));
    if (found) return found.name;
  }
  return null;
}
