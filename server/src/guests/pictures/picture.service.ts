import { createHash } from 'node:crypto';
import { isPictureId, MOST_PICTURES, type PictureMade, type PictureUse } from '@iron-lattice/core/guests';
import { QueryTypes, type Sequelize } from 'sequelize';
import { after, AppError } from '../../platform/app-error';
import { Gate } from '../../platform/gate';
import { note } from '../../platform/journal';
import { cleaned } from './clean';

/** Pictures that are drawn at the same time, and how many wait. */
const [AT_ONCE, MOST_WAITING] = [1, 10];
/** Pictures that are remembered: every guest’s page asks for them. */
const MOST_REMEMBERED = 200;

/** Pictures of portals: kept by what they are, so that one is never another. */
export class PictureService {
  private readonly drawing = new Gate(AT_ONCE, MOST_WAITING, () =>
    after(10, new AppError('controller.busy', 'Too many pictures are being drawn. Try again in 10 s.')),
  );
  private readonly remembered = new Map<string, Buffer>();

  constructor(private readonly database: Sequelize) {}

  /** Cleans a picture and keeps it. @throws AppError `picture.refused`. */
  async add(use: PictureUse, brought: Buffer, personId: string): Promise<PictureMade> {
    const { bytes, width, height, ...made } = await this.drawing.run(() => cleaned(use, brought));
    const id = createHash('sha256').update(bytes).digest('hex');
    const kept = await this.database.query<{ id: string }>(
      `INSERT INTO portal_picture (id, width, height, octets, person_id)
       SELECT :id, :width, :height, :bytes, :personId FROM (SELECT count(*) AS there FROM portal_picture) all_of
       WHERE there < :most OR EXISTS (SELECT 1 FROM portal_picture WHERE id = :id)
       ON CONFLICT (id) DO UPDATE SET at = now() RETURNING id`,
      { replacements: { id, width, height, bytes, personId, most: MOST_PICTURES }, type: QueryTypes.SELECT },
    );
    if (kept.length === 0)
      throw new AppError('picture.refused', `${MOST_PICTURES} pictures are kept at most. Take one that is there.`);
    await note(this.database, personId, 'guests.picture', { use, octets: bytes.length });
    return { picture: { id, width, height }, ...made };
  }

  /** The octets of a picture, as WebP; null where it is not there. */
  async read(id: string): Promise<Buffer | null> {
    if (!isPictureId(id)) return null;
    const known = this.remembered.get(id);
    if (known) return known;
    const [row] = await this.database.query<{ octets: Buffer }>('SELECT octets FROM portal_picture WHERE id = :id', {
      replacements: { id },
      type: QueryTypes.SELECT,
    });
    if (!row) return null;
    if (this.remembered.size >= MOST_REMEMBERED) this.remembered.clear();
    this.remembered.set(id, row.octets);
    return row.octets;
  }
}
