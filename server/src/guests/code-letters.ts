import { leadingPorts } from '@iron-lattice/core/intent';
import { filled, signInUrl, spanIn, textsOf, writtenCode, type Contact } from '@iron-lattice/core/guests';
import type { MailTried } from '@iron-lattice/core/base';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { IntentService } from '../intent/intent.service';
import type { SecretService } from '../intent/secret.service';
import type { Mailer } from '../roster/mail-offer';
import type { Texter } from '../roster/text-offer';
import { AppError, unknown } from '../platform/app-error';

interface Row {
  readonly id: string;
  readonly portal_id: string;
  readonly sealed: Buffer;
  readonly seconds: number;
  readonly site: string | null;
}

/** Sends visit codes to guests by mail or text message, in the first language of their portal, with the way to sign in. */
export class CodeLetters {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly secrets: SecretService,
    private readonly portalUrl: () => string,
    private readonly mail: Mailer,
    private readonly texts: Texter,
  ) {}

  /** @throws AppError `thing.unknown`, `code.over` where one is taken back, and what the mailer throws. */
  async code(id: string, { by, to }: Contact, personId: string): Promise<MailTried> {
    const [row] = await this.database.query<Row>(
      `SELECT c.id, c.portal_id, c.sealed, c.seconds, s.name AS site FROM visit_code c LEFT JOIN site s ON s.id = c.site_ids[1]
       WHERE c.id = :id AND c.revoked_at IS NULL`,
      { replacements: { id }, type: QueryTypes.SELECT },
    );
    if (!row) throw unknown('visit code');
    const { estate, sites } = (await this.intents.live()).intent;
    const portal = estate.portals?.find((each) => each.id === row.portal_id);
    const ssid = estate.ssids.find((each) => each.portal === row.portal_id);
    const leads = ssid ?? portal?.named ?? [...sites.values()].some((site) => leadingPorts(site).has(row.portal_id));
    if (!portal || !leads)
      throw new AppError(
        'code.refused',
        'Its portal is not live, or neither an SSID nor a port leads to it: nobody could use the code yet.',
      );
    const texts = textsOf(portal.languages[0]!);
    const code = this.secrets.unseal(row.id, row.sealed);
    const put = {
      ...{ site: row.site ?? estate.name, code: writtenCode(code) },
      ...{ ssid: ssid?.name ?? '', join: ssid ? filled(texts.joinSsid, { ssid: ssid.name }) : texts.plugIn },
      ...{ url: signInUrl(this.portalUrl(), code), span: spanIn(portal.languages[0]!, Math.round(row.seconds / 60)) },
    };
    if (by === 'phone')
      return this.texts({ to, text: filled(ssid ? texts.visitMessage : texts.pluggedMessage, put) }, personId);
    return this.mail({ to, subject: filled(texts.mailSubject, put), text: filled(texts.mailText, put) }, personId);
  }
}
