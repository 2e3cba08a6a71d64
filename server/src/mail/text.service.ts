import type { MailTried } from '@iron-lattice/core/base';
import { readPage, textFlaws, type TextChange, type TextFields, type TextView } from '@iron-lattice/core/guests';
import type { Sequelize } from 'sequelize';
import { note } from '../platform/journal';
import type { Message } from '../roster/text-offer';
import type { KeptSetting, Setting } from './kept-setting';
import type { SendLimit } from './send-limit';
import { sendText } from './send-text';

export const TEXT_SETTING: Setting<TextFields> = {
  ...{ table: 'text_setting', name: 'texts', flawsOf: textFlaws },
  // To no other host, nor to the same one without encryption.
  secretFor: ({ url }) => JSON.stringify(readPage(url)),
  needsSecret: ({ header }) => header !== '',
  noted: ({ url }) => ({ host: readPage(url)?.host }),
  none: 'Nothing is said of how text messages are sent. Whoever runs the network says it under Guests, Mail.',
};

/** How text messages are sent, and sending them. */
export class TextService {
  constructor(
    private readonly database: Sequelize,
    private readonly setting: KeptSetting<TextFields>,
    private readonly limit: SendLimit,
  ) {}

  view = (): Promise<TextView | null> => this.setting.view();
  set = ({ version, fields, secret }: TextChange, personId: string): Promise<void> =>
    this.setting.set(version, fields, secret, personId);
  forget = (personId: string): Promise<void> => this.setting.forget(personId);

  /** Sends a text message, and says what came of it. @throws AppError `texts.none`, `mail.many`. */
  async send(message: Message, personId: string | null): Promise<MailTried> {
    const { fields, secret } = await this.setting.open();
    if (personId !== null) await this.limit.count(personId);
    const tried = await this.limit.run(() => sendText(fields, secret, message));
    if (personId !== null) await note(this.database, personId, 'texts.send', { ok: tried.ok });
    return tried;
  }
}
