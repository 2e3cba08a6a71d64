// npm start when nothing changed: until it says that it serves.
import { spawn } from 'node:child_process';
import { root } from '../tools/setup.mjs';
import { figure, percentile } from './figures.mjs';

function startOnce(folder) {
  const began = performance.now();
  const env = { ...process.env, LATTICE_DATA: folder, LATTICE_PORT: '8720' };
  const child = spawn('npm', ['start'], { cwd: root, env, stdio: ['ignore', 'pipe', 'inherit'] });
  return new Promise((resolve, reject) => {
    let seconds = 0;
    child.stdout.on('data', (chunk) => {
      if (!String(chunk).includes('serves')) return;
      seconds = (performance.now() - began) / 1000;
      child.kill('SIGTERM');
    });
    child.on('exit', () => (seconds > 0 ? resolve(seconds) : reject(new Error('npm start ended before it served'))));
  });
}

export async function benchRestart({ folder }) {
  await startOnce(folder); // makes the data
  const times = [await startOnce(folder), await startOnce(folder), await startOnce(folder)];
  figure('npm start when nothing changed, median of 3', `${percentile(times, 0.5).toFixed(1)} s`, '8 s or less');
}
