import { ASK_FIELDS, filled, momentIn, textsOf, type Language, type PortalTexts } from '@iron-lattice/core/guests';
import type { MailTried } from '@iron-lattice/core/base';
import { AppError } from '../../platform/app-error';
import type { Mailer } from '../../roster/mail-offer';
import type { Texter } from '../../roster/text-offer';
import type { LivePortal } from '../portals-live';
import type { AskRow } from './ask-row';

/** What came of what was sent. */
export interface Sent {
  readonly ok: boolean;
}

/** What is sent to guests, and to whoever may say yes to them: in the language that the guest reads, or the first of the portal. */
export class AskLetters {
  constructor(
    private readonly mail: Mailer,
    private readonly texts: Texter,
    /** The page that is answered at, for one of those who are asked. */
    private readonly linkOf: (row: AskRow, at: number) => string,
    private readonly failed: (error: unknown) => void,
  ) {}

  /** Sends a guest its code. */
  async code({ contact, contact_by: by, language, until }: AskRow, code: string, live: LivePortal): Promise<Sent> {
    const texts = textsOf(language);
    const put = { code, site: live.siteName, time: momentIn({ language, timeZone: live.timeZone }, until.getTime()) };
    return by === 'phone'
      ? this.try(() => this.texts({ to: contact!, text: filled(texts.codeMessage, put) }, null))
      : this.mailTo(contact!, texts, 'code', put);
  }

  /** Asks those who may say yes; one that hears of it is enough. */
  async question(row: AskRow, live: LivePortal): Promise<Sent> {
    const language = live.portal.languages[0]!;
    const texts = textsOf(language);
    const said = [
      ...ASK_FIELDS.flatMap((field) => (row.said[field] ? [`${texts[field]}: ${row.said[field]}`] : [])),
      ...(row.contact === null ? [] : [`${texts.contact}: ${row.contact}`]),
    ].join('\n');
    const put = {
      ...{ name: row.said.name ?? texts.someone, site: live.siteName, said },
      time: momentIn({ language, timeZone: live.timeZone }, row.until.getTime()),
    };
    const all = await Promise.all(
      row.sponsors.map((to, at) => this.mailTo(to, texts, 'ask', { ...put, url: this.linkOf(row, at) })),
    );
    return { ok: all.some(({ ok }) => ok) };
  }

  /** Tells a guest who left an address, and whoever hears of everybody, that somebody said yes. */
  async letIn(row: AskRow, who: string, until: number, { portal, siteName, timeZone }: LivePortal): Promise<void> {
    const put = (language: Language) => ({
      ...{ who, site: siteName, name: row.said.name ?? textsOf(language).someone },
      time: momentIn({ language, timeZone }, until),
    });
    const own = textsOf(row.language);
    const house = portal.languages[0]!;
    const { contact, contact_by: by } = row;
    await Promise.all([
      ...(contact === null
        ? []
        : by === 'phone'
          ? [this.try(() => this.texts({ to: contact, text: filled(own.inText, put(row.language)).trim() }, null))]
          : [this.mailTo(contact, own, 'in', put(row.language))]),
      ...(portal.sponsors?.told ?? []).map((to) => this.mailTo(to, textsOf(house), 'told', put(house))),
    ]);
  }

  private mailTo(
    to: string,
    texts: PortalTexts,
    what: 'code' | 'ask' | 'told' | 'in',
    put: Readonly<Record<string, string>>,
  ): Promise<Sent> {
    const subject = filled(texts[`${what}Subject`], put);
    return this.try(() => this.mail({ to, subject, text: filled(texts[`${what}Text`], put) }, null));
  }

  /** What cannot be sent is told the guest, who chooses another way; nobody else waits for it. */
  private async try(send: () => Promise<MailTried>): Promise<Sent> {
    try {
      return { ok: (await send()).ok };
    } catch (error) {
      if (!(error instanceof AppError)) this.failed(error);
      return { ok: false };
    }
  }
}
