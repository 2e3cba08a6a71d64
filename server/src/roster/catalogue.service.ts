import { createHash } from 'node:crypto';
import { isVersion, type FirmwareRelease, type ReleaseView } from '@iron-lattice/core/firmware';
import { QueryTypes, type Sequelize } from 'sequelize';
import { AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { note } from '../platform/journal';

/** A release with what a device needs to fetch it. */
export interface StoredRelease extends FirmwareRelease {
  readonly size: number;
  readonly sha256: string;
}

/** A release as people bring it: what is said of it, and its image. */
export interface NewRelease extends FirmwareRelease {
  readonly image: Buffer;
}

const CATALOGUE = 'catalogue';

/** The releases of firmware that devices can be brought to. */
export class CatalogueService {
  private known: Promise<StoredRelease[]> | null = null;

  constructor(
    private readonly database: Sequelize,
    private readonly bus: Bus,
  ) {
    bus.on('live', (event) => {
      if (event.type === 'firmware' && event.batchId === CATALOGUE) this.known = null;
    });
  }

  /** All releases; remembered until one is added. */
  releases(): Promise<readonly StoredRelease[]> {
    this.known ??= this.read().catch((error: unknown) => {
      this.known = null;
      throw error;
    });
    return this.known;
  }

  async list(): Promise<ReleaseView[]> {
    const [releases, running] = await Promise.all([
      this.releases(),
      this.database.query<{ model: string; firmware: string; count: string }>(
        'SELECT model, firmware, count(*) FROM device WHERE site_id IS NOT NULL GROUP BY model, firmware',
        { type: QueryTypes.SELECT },
      ),
    ]);
    const count = new Map(running.map((row) => [`${row.model} ${row.firmware}`, Number(row.count)]));
    return releases.map((release) => ({ ...release, running: count.get(`${release.model} ${release.version}`) ?? 0 }));
  }

  /** Adds a release; one that is there stays as it is. @throws AppError `firmware.refused`. */
  async add({ image, ...release }: NewRelease, personId: string | null): Promise<void> {
    for (const version of [release.version, release.minimumPrevious ?? release.version])
      if (!isVersion(version))
        throw new AppError('firmware.refused', `“${version}” is not a release number, such as 4.3.1.`);
    if (image.length === 0) throw new AppError('firmware.refused', 'The release has no image.');
    const rows = await this.database.query(
      `INSERT INTO firmware_release (model, version, released_on, notes, minimum_previous, unsupported, holds_line, size, sha256, image)
       VALUES ($model, $version, $releasedOn, $notes, $minimumPrevious, $unsupported, $holdsLine, $size, $sha256, $image)
       ON CONFLICT DO NOTHING RETURNING version`,
      {
        bind: { ...release, size: image.length, sha256: createHash('sha256').update(image).digest('hex'), image },
        type: QueryTypes.SELECT,
      },
    );
    if (rows.length === 0)
      throw new AppError('firmware.refused', `${release.model} ${release.version} is in the catalogue already.`);
    if (personId !== null)
      await note(this.database, personId, 'firmware.add', { model: release.model, version: release.version });
    this.known = null;
    await this.bus.send('live', { type: 'firmware', batchId: CATALOGUE });
  }

  /** @throws AppError when there is no such release. */
  async image(model: string, version: string): Promise<Buffer> {
    const rows = await this.database.query<{ image: Buffer }>(
      'SELECT image FROM firmware_release WHERE model = :model AND version = :version',
      { replacements: { model, version }, type: QueryTypes.SELECT },
    );
    if (!rows[0]) throw unknown('release');
    return rows[0].image;
  }

  private async read(): Promise<StoredRelease[]> {
    const rows = await this.database.query<Record<string, never>>(
      `SELECT model, version, to_char(released_on, 'YYYY-MM-DD') AS "releasedOn", notes, minimum_previous AS "minimumPrevious",
         unsupported, holds_line AS "holdsLine", size, sha256 FROM firmware_release ORDER BY model, released_on DESC`,
      { type: QueryTypes.SELECT },
    );
    return rows as unknown as StoredRelease[];
  }
}
