// One start at a time on a data folder.
import { closeSync, linkSync, openSync, readFileSync, unlinkSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { Refusal } from './refusal.mjs';

/** When a process began, by the kernel's clock; empty where that cannot be told. A number that is used again differs in it. */
function beginOf(pid) {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    return stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19] ?? '';
  } catch {
    return '';
  }
}

function lives({ pid, began }) {
  try {
    process.kill(pid, 0);
  } catch (error) {
    if (error.code !== 'EPERM') return false;
  }
  return began === '' || beginOf(pid) === began;
}

function ownerOf(file) {
  try {
    return JSON.parse(readFileSync(file, 'utf8'));
  } catch {
    return null;
  }
}

/**
 * Takes a data folder for this process.
 * @returns a function that gives it back.
 * @throws Refusal when another process that lives has it; nothing is touched then.
 */
export function claimFolder(folder) {
  const file = join(folder, 'in-use');
  const own = join(folder, `in-use.${process.pid}`);
  const me = { pid: process.pid, began: beginOf(process.pid), since: new Date().toISOString() };
  const handle = openSync(own, 'w', 0o644);
  writeSync(handle, JSON.stringify(me));
  closeSync(handle);
  try {
    for (let tries = 0; ; tries++) {
      try {
        linkSync(own, file); // there whole, or not at all
        break;
      } catch (error) {
        if (error.code !== 'EEXIST' || tries > 5) throw error;
        const owner = ownerOf(file);
        if (owner && lives(owner))
          throw new Refusal(
            `The data in ${folder} is in use by process ${owner.pid}, started ${owner.since}. Stop that one first, or set LATTICE_DATA to another folder.`,
          );
        unlinkSync(file); // whoever had it is gone
      }
    }
  } finally {
    unlinkSync(own);
  }
  return () => {
    if (ownerOf(file)?.pid === process.pid) unlinkSync(file);
  };
}
