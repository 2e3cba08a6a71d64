// npm run bench [-- restart screen lines intake table strands plan grid rules abuse estate waves controllers air spectrum ssids entry guests uplinks routes]: figures beside what was aimed at; never pass or fail.
import { mkdtempSync, rmSync } from 'node:fs';
import { cpus, tmpdir, totalmem } from 'node:os';
import { join } from 'node:path';
import { checkNode, ensureDependencies, ensurePackages, ensureWeb } from '../tools/setup.mjs';

checkNode();
ensurePackages('postgresql', 'chromium');
ensureDependencies();
await ensureWeb();
const { ensureDatabase, startPostgres } = await import('../tools/pg.mjs');
const BENCHES = {
  restart: (await import('./restart.mjs')).benchRestart,
  screen: (await import('./screen.mjs')).benchScreen,
  lines: (await import('./lines.mjs')).benchLines,
  intake: (await import('./intake.mjs')).benchIntake,
  table: (await import('./table.mjs')).benchTable,
  strands: (await import('./strands.mjs')).benchStrands,
  plan: (await import('./plan.mjs')).benchPlan,
  grid: (await import('./grid.mjs')).benchGrid,
  rules: (await import('./rules.mjs')).benchRules,
  abuse: (await import('./abuse.mjs')).benchAbuse,
  estate: (await import('./estate.mjs')).benchEstate,
  waves: (await import('./waves.mjs')).benchWaves,
  controllers: (await import('./controllers.mjs')).benchControllers,
  air: (await import('./air.mjs')).benchAir,
  spectrum: (await import('./spectrum.mjs')).benchSpectrum,
  ssids: (await import('./ssids.mjs')).benchSsids,
  entry: (await import('./entry.mjs')).benchEntry,
  guests: (await import('./guests.mjs')).benchGuests,
  uplinks: (await import('./uplinks.mjs')).benchUplinks,
  routes: (await import('./routes.mjs')).benchRoutes,
};
const asked = process.argv.slice(2);
const names = asked.length > 0 ? asked : Object.keys(BENCHES);
const folder = mkdtempSync(join(tmpdir(), 'lattice-bench-'));
const postgres = await startPostgres(join(folder, 'data'));
try {
  console.log(
    `Node.js ${process.version}, ${cpus().length} × ${cpus()[0]?.model ?? 'unknown'}, ${(totalmem() / 2 ** 30).toFixed(0)} GiB\n`,
  );
  for (const name of names) {
    if (!BENCHES[name]) throw new Error(`no benchmark ${name}; there are ${Object.keys(BENCHES).join(', ')}`);
    const database = `bench_${name}`;
    await ensureDatabase(postgres.urlOf, database);
    await BENCHES[name]({ databaseUrl: postgres.urlOf(database), folder: join(folder, name) });
  }
} finally {
  postgres.stop();
  rmSync(folder, { recursive: true, force: true });
}
