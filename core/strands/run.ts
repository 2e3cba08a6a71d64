import { readFileSync } from 'node:fs';
import { readStrands, strandsOf } from '../src/lattice';

// npm run strands -- FILE: which ports a frame of each segment reaches from each port. See docs/strands-file.md.
const path = process.argv[2];
if (!path) {
  console.error('usage: npm run strands -- FILE');
  process.exit(2);
}
try {
  const plant = readStrands(JSON.parse(readFileSync(path, 'utf8')));
  const strands = strandsOf(plant);
  console.log(JSON.stringify({ format: 'iron-lattice.strands-reached/1', strands }, null, 1));
} catch (error) {
  console.error(`${path}: ${error instanceof Error ? error.message : String(error)}`);
  process.exit(2);
}
