import { randomBytes } from 'node:crypto';
import { expect, test } from 'vitest';
import { freshDatabase } from '../../../tools/test-database.mjs';
import { connect } from './database';
import { note } from './journal';
import { migrationsOf } from '../controller';
import { migrate } from './migrate';
import { SecretBox } from './secret-box';

test('controllers that start at once migrate once, and the journal cannot be edited', async () => {
  const { url, drop } = await freshDatabase();
  const databases = [connect(url), connect(url), connect(url)];
  try {
    await Promise.all(databases.map((each) => migrate(each, migrationsOf())));
    const [database] = databases;
    const [rows] = await database!.query('SELECT name FROM migration');
    expect(rows).toEqual([
      { name: '0001-first' },
      { name: '0002-intake' },
      { name: '0003-rules' },
      { name: '0004-probes' },
      { name: '0005-limits' },
      { name: '0006-waves' },
      { name: '0007-drift' },
      { name: '0008-side-by-side' },
      { name: '0009-air' },
      { name: '0010-rings' },
      { name: '0011-range' },
      { name: '0012-users' },
      { name: '0013-taken' },
      { name: '0014-failures' },
      { name: '0015-register' },
      { name: '0016-issued' },
      { name: '0017-directory' },
      { name: '0018-shown' },
      { name: '0019-key-classes' },
      { name: '0020-guests' },
      { name: '0021-reception' },
      { name: '0022-together' },
      { name: '0023-mail' },
      { name: '0024-texts' },
      { name: '0025-asking' },
      { name: '0026-pictures' },
      { name: '0027-limits' },
      { name: '0028-known' },
      { name: '0029-paths' },
      { name: '0030-courses' },
      { name: '0031-first-uplink' },
      { name: '0032-hidden-secrets' },
      { name: '0033-router-tries' },
    ]);
    await note(database!, null, 'test', {});
    await expect(database!.query(`UPDATE journal SET act = 'other'`)).rejects.toThrow('added to, not edited');
    await expect(database!.query('DELETE FROM journal')).rejects.toThrow('added to, not edited');
  } finally {
    await Promise.all(databases.map((each) => each.close()));
    await drop();
  }
});

test('a sealed secret opens only under its key, its id, and unchanged', () => {
  const box = new SecretBox(randomBytes(32));
  const sealed = box.seal('a', 'fáilte ☸');
  expect(box.open('a', sealed)).toBe('fáilte ☸');
  expect(sealed.toString('utf8')).not.toContain('ilte');
  expect(box.seal('a', 'fáilte ☸')).not.toEqual(sealed);
  expect(() => box.open('b', sealed)).toThrow();
  expect(() => new SecretBox(randomBytes(32)).open('a', sealed)).toThrow();
  for (let at = 0; at < sealed.length; at += 5) {
    const bent = Buffer.from(sealed);
    bent[at]! ^= 1;
    expect(() => box.open('a', bent)).toThrow();
  }
  expect(() => new SecretBox(randomBytes(16))).toThrow(RangeError);
});
