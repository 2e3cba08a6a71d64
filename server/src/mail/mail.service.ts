import { mailFlaws, type MailChange, type MailFields, type MailTried, type MailView } from '@iron-lattice/core/base';
import type { Sequelize } from 'sequelize';
import { note } from '../platform/journal';
import type { Letter } from '../roster/mail-offer';
import type { KeptSetting, Setting } from './kept-setting';
import { sendMail } from './send';
import type { SendLimit } from './send-limit';

export const MAIL_SETTING: Setting<MailFields> = {
  ...{ table: 'mail_setting', name: 'mail', flawsOf: mailFlaws },
  secretFor: ({ host }) => host.toLowerCase(),
  needsSecret: ({ user }) => user !== '',
  noted: ({ host, from }) => ({ host, from }),
  none: 'Nothing is said of how mail is sent. Whoever runs the network says it under Guests, Mail.',
};

/** How mail is sent, and sending it. */
export class MailService {
  constructor(
    private readonly database: Sequelize,
    private readonly setting: KeptSetting<MailFields>,
    private readonly limit: SendLimit,
  ) {}

  view = (): Promise<MailView | null> => this.setting.view();
  set = ({ version, fields, secret }: MailChange, personId: string): Promise<void> =>
    this.setting.set(version, fields, secret, personId);
  forget = (personId: string): Promise<void> => this.setting.forget(personId);

  /** Sends a mail, and says what came of it. @param personId for whom; null: for the controller itself. @throws AppError `mail.none`, `mail.many`. */
  async send(letter: Letter, personId: string | null): Promise<MailTried> {
    const { fields, secret } = await this.setting.open();
    if (personId !== null) await this.limit.count(personId);
    const tried = await this.limit.run(() => sendMail(fields, secret, letter));
    if (personId !== null) await note(this.database, personId, 'mail.send', { subject: letter.subject, ok: tried.ok });
    return tried;
  }
}
