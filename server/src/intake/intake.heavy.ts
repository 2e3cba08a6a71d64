import { checkSerialList } from '@iron-lattice/core/intake';
import type { TasksOf } from '../platform/heavy';
import { composeWithFindings } from './branches/compose-branches';

declare module '../platform/heavy' {
  interface HeavyTasks {
    /** Looks at a list of devices that somebody expects. */
    'check-serials': typeof checkSerialList;
    /** Composes branches. */
    branches: typeof composeWithFindings;
  }
}

export const tasks: TasksOf<'check-serials' | 'branches'> = {
  'check-serials': checkSerialList,
  branches: composeWithFindings,
};
