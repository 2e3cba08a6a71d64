import type { TasksOf } from './heavy';
import { readTable } from './list-table';

declare module './heavy' {
  interface HeavyTasks {
    /** Reads a list that somebody uploaded. */
    'read-table': typeof readTable;
  }
}

export const tasks: TasksOf<'read-table'> = { 'read-table': readTable };
