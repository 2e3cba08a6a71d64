import { readFileSync } from 'node:fs';
import { ADAPTER } from './adapter';
import { runVectors, type VectorFile } from './vector-file';

// npm run vectors -- FILE: how our functions do on a file of test vectors.
const path = process.argv[2];
if (!path) {
  console.error('usage: npm run vectors -- FILE');
  process.exit(2);
}
const tallies = runVectors(JSON.parse(readFileSync(path, 'utf8')) as VectorFile, ADAPTER);
const sum = { passed: 0, failed: 0, missing: 0 };
for (const [name, { passed, failed, missing, failures }] of tallies) {
  const words = missing > 0 ? `${missing} not implemented yet` : `${passed} passed, ${failed} failed`;
  console.log(`${name.padEnd(28)} ${words}`);
  for (const failure of failures) console.log(`    ${failure}`);
  sum.passed += passed;
  sum.failed += failed;
  sum.missing += missing;
}
console.log(`\nIn all: ${sum.passed} passed, ${sum.failed} failed, ${sum.missing} not implemented yet`);
process.exit(sum.failed > 0 ? 1 : 0);
