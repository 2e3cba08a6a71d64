// npm run lint: types and rules of all code. What TypeScript has read of a part for its types, the rules are asked of too:
// reading it twice would take longer than the rules themselves.
import { join } from 'node:path';
import { ESLint } from 'eslint';
import ts from 'typescript';
import { root } from './setup.mjs';

/**
 * Configurations of TypeScript, the strictest first: a file is checked by the first that has it. Types of the web are checked where
 * it is built, with its templates.
 */
const PARTS = [
  { file: 'core/tsconfig.pure.json', types: true },
  { file: 'tsconfig.json', types: true },
  { file: 'e2e/tsconfig.json', types: true },
  { file: 'web/tsconfig.json', types: false },
];

const host = {
  getCanonicalFileName: (name) => name,
  getCurrentDirectory: () => root,
  getNewLine: () => '\n',
};
const wrong = [];
const checked = new Set();
const programs = PARTS.map(({ file, types }) => {
  const parsed = ts.getParsedCommandLineOfConfigFile(
    join(root, file),
    {},
    {
      ...ts.sys,
      onUnRecoverableConfigFileDiagnostic: (each) => wrong.push(each),
    },
  );
  const program = ts.createProgram(parsed.fileNames, parsed.options);
  if (!types) return program;
  wrong.push(...parsed.errors, ...program.getOptionsDiagnostics(), ...program.getGlobalDiagnostics());
  for (const name of parsed.fileNames.filter((each) => !checked.has(each))) {
    checked.add(name);
    const file = program.getSourceFile(name);
    wrong.push(...program.getSyntacticDiagnostics(file), ...program.getSemanticDiagnostics(file));
  }
  return program;
});
if (wrong.length > 0) console.log(ts.formatDiagnostics(wrong, host));

const eslint = new ESLint({
  cwd: root,
  overrideConfig: { files: ['**/*.ts'], languageOptions: { parserOptions: { programs } } },
});
const results = await eslint.lintFiles(['.']);
console.log(await (await eslint.loadFormatter('stylish')).format(results));
const bad = results.filter(({ errorCount, warningCount }) => errorCount + warningCount > 0);
console.log(`${results.length} files; ${bad.length} break a rule, ${wrong.length} faults of types.`);
process.exit(wrong.length + bad.length > 0 ? 1 : 0);
