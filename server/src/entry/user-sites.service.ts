import { userAtSites, type UserAtSite } from '@iron-lattice/core/entry';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { DraftService } from '../intent/draft.service';
import { unknown } from '../platform/app-error';

/** What users that the controller keeps would get, by a draft. */
export class UserSitesService {
  constructor(
    private readonly database: Sequelize,
    private readonly drafts: DraftService,
  ) {}

  /** What a user would get at each site. */
  async at(draftId: string, userId: string): Promise<UserAtSite[]> {
    const [rows, { intent }] = await Promise.all([
      this.database.query<{ groups: string[] }>(
        'SELECT groups FROM entry_user WHERE id = :userId AND removed_at IS NULL',
        { replacements: { userId }, type: QueryTypes.SELECT },
      ),
      this.drafts.open(draftId),
    ]);
    if (!rows[0]) throw unknown('user');
    return userAtSites(intent, rows[0].groups);
  }
}
