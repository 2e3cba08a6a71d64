import type { SiteRemoval } from '@iron-lattice/core/intake';
import { counted } from '../ui/counted';

/** What goes with a site, or why it stays, in words. */
export function removalWords(name: string, { why, boxes, edits, drafts }: SiteRemoval): string {
  if (why !== null) return why;
  const going = [
    boxes > 0 ? counted(boxes, 'box that is expected', 'boxes that are expected') : '',
    edits > 0 ? `${counted(edits, 'edit')} of ${drafts.join(' and ')}` : '',
  ].filter((each) => each !== '');
  return going.length === 0
    ? `${name} goes, and nothing with it. This cannot be undone.`
    : `${name} goes, and with it ${going.join(' and ')}. This cannot be undone.`;
}
