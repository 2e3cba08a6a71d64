import type { BranchesSeen } from '@iron-lattice/core/intake';
import { counted } from '../../ui/counted';

/** What the press does that makes branches, in words: what is there at once, and what waits in the draft. */
export function madeWords({ count, elsewhere }: Pick<BranchesSeen, 'count' | 'elsewhere'>): {
  readonly there: string;
  readonly draft: string;
} {
  const { sites, devices, calling, edits } = count;
  const later = devices - calling;
  const boxes = [
    calling > 0 ? `${counted(calling, 'box calls and is', 'boxes call and are')} taken in` : '',
    later === 1 ? '1 box is expected, and taken in when it calls' : '',
    later > 1 ? `${later} boxes are expected, each taken in when it calls` : '',
  ].filter((each) => each !== '');
  const there = `At once: ${sites === 1 ? 'the site is' : `${sites} sites are`} there, ${boxes.join(', ')}.`;
  if (edits === 0) return { there, draft: 'Nothing is put into the draft.' };
  const told = elsewhere.filter((site) => site.devices > 0);
  const total = told.reduce((sum, site) => sum + site.devices, 0);
  const names = told.map(({ name }) => name);
  const where = names.length > 4 ? `${names.slice(0, 4).join(', ')} and ${names.length - 4} more` : names.join(', ');
  const tells =
    total === 0
      ? 'No device that is there is told anything by them.'
      : `Rolled out, that tells ${counted(total, 'device')} at ${where}.`;
  return { there, draft: `In the draft: ${counted(edits, 'edit')}. ${tells}` };
}
