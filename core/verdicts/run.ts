import { readFileSync } from 'node:fs';
import { ietfAclOf, nftablesOf } from '../src/formats';
import { judge, readRulesFile } from '../src/rules';

// npm run verdicts -- FILE: what a rulebook does with a list of packets, and the rulebook as nftables. See docs/rules-file.md.
const path = process.argv[2];
if (!path) {
  console.error('usage: npm run verdicts -- FILE');
  process.exit(2);
}
try {
  const read = readRulesFile(JSON.parse(readFileSync(path, 'utf8')));
  const out = {
    format: 'iron-lattice.verdicts/1',
    verdicts: judge(read),
    nftables: nftablesOf(read),
    acl: ietfAclOf(read.rules, read.otherwise),
  };
  console.log(JSON.stringify(out, null, 1));
} catch (error) {
  console.error(`${path}: ${error instanceof Error ? error.message : String(error)}`);
  process.exit(2);
}
