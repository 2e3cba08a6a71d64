import type { TasksOf } from '../platform/heavy';
import { readRelease } from './release-file';

declare module '../platform/heavy' {
  interface HeavyTasks {
    /** Reads a release of firmware from its file. */
    'read-release': typeof readRelease;
  }
}

export const tasks: TasksOf<'read-release'> = { 'read-release': readRelease };
