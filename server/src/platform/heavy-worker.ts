import { ask, consequencesOf, reachCell, reachMatrix } from '@iron-lattice/core/assess';
import { draftOfSeat } from '@iron-lattice/core/bench';
import { checkSerialList } from '@iron-lattice/core/intake';
import { PolicyBook } from '@iron-lattice/core/rules';
import { readRelease } from '../firmware/release-file';
import { readTable } from '../intake/list-table';
import type { HeavyTask } from './heavy';

/** What this thread knows of the policies it was asked about last. */
const book = new PolicyBook();

/** Runs in a worker thread: one function on plain values. */
export default function handle(task: HeavyTask): unknown {
  switch (task.do) {
    case 'consequences':
      return consequencesOf(task.input, book);
    case 'reach':
      return reachMatrix(task.input, task.minute, book);
    case 'reach-cell':
      return reachCell(task.input, task.asked, book);
    case 'ask':
      return ask(task.input, task.asked, book);
    case 'seat':
      return draftOfSeat(task.input, task.question, task.minute, book);
    case 'read-release':
      return readRelease(task.bytes);
    case 'read-table':
      return readTable(task.bytes);
    case 'check-serials':
      return checkSerialList(task.table, task.context);
  }
}
