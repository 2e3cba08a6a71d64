// Databases for tests: fresh, and gone afterwards.
import { randomUUID } from 'node:crypto';
import pg from 'pg';

/**
 * Makes a database in the test run's PostgreSQL.
 * @param template another one that it is a copy of; none: it is empty.
 */
export async function freshDatabase(template) {
  const url = (name) => process.env.TEST_DATABASE.replace('NAME', name);
  const name = `t_${randomUUID().replaceAll('-', '')}`;
  const admin = async (sql) => {
    const client = new pg.Client({ connectionString: url('postgres') });
    client.on('error', () => {}); // whoever asks it is told
    await client.connect();
    await client.query(sql);
    await client.end();
  };
  await admin(`CREATE DATABASE ${name}${template ? ` TEMPLATE ${template}` : ''}`);
  return { name, url: url(name), drop: () => admin(`DROP DATABASE ${name} WITH (FORCE)`) };
}
