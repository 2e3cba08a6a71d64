import { consequencesOf } from '@iron-lattice/core/assess';
import { checkSerialList } from '@iron-lattice/core/intake';
import { readTable } from '../intake/list-table';
import type { HeavyTask } from './heavy';

/** Runs in a worker thread: one function on plain values. */
export default function handle(task: HeavyTask): unknown {
  switch (task.do) {
    case 'consequences':
      return consequencesOf(task.input);
    case 'read-table':
      return readTable(task.bytes);
    case 'check-serials':
      return checkSerialList(task.table, task.context);
  }
}
