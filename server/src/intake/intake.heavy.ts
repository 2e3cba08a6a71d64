import { checkSerialList } from '@iron-lattice/core/intake';
import type { TasksOf } from '../platform/heavy';

declare module '../platform/heavy' {
  interface HeavyTasks {
    /** Looks at a list of devices that somebody expects. */
    'check-serials': typeof checkSerialList;
  }
}

export const tasks: TasksOf<'check-serials'> = { 'check-serials': checkSerialList };
