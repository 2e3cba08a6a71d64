import type { Stage } from '../stage';
import { MAIL } from '../roster/mail-offer';
import { SENDING } from '../roster/sending-offer';
import { TEXTS } from '../roster/text-offer';
import { KeptSetting } from './kept-setting';
import { mailRoutes } from './mail.routes';
import { MAIL_SETTING, MailService } from './mail.service';
import * as first from './migrations/0023-mail';
import * as second from './migrations/0024-texts';
import { SendLimit } from './send-limit';
import { textRoutes } from './text.routes';
import { TEXT_SETTING, TextService } from './text.service';

/** Mail and text messages, for every stage that has something to tell. */
export const mail: Stage = {
  name: 'mail',
  migrations: [first, second],
  open: ({ offers, database, pool, secrets, bus }) => {
    const mails = new MailService(
      database,
      new KeptSetting(MAIL_SETTING, database, secrets, bus),
      new SendLimit(pool, 'mails', 'mail'),
    );
    const texts = new TextService(
      database,
      new KeptSetting(TEXT_SETTING, database, secrets, bus),
      new SendLimit(pool, 'text messages', 'texts'),
    );
    offers.make(MAIL, (letter, personId) => mails.send(letter, personId));
    offers.make(SENDING, async () => {
      const [mail, text] = await Promise.all([mails.view(), texts.view()]);
      return { mail: mail !== null, texts: text !== null };
    });
    offers.make(TEXTS, (message, personId) => texts.send(message, personId));
    return { routes: [...mailRoutes(mails), ...textRoutes(texts)] };
  },
};
