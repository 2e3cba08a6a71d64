import PostalMime from 'postal-mime';
import { SMTPServer } from 'smtp-server';

/** Mails that are kept, the latest; octets of one. */
const [MOST_KEPT, MOST_OCTETS] = [200, 1_000_000];
/** Nobody has a mailbox there. */
const NOWHERE = '@nobody.example';
/** Who may sign in, and by which password. Nobody has to. */
export const CATCHER_ACCOUNT = { user: 'lattice', pass: 'gangway at noon' } as const;

/** A mail that came. */
export interface Caught {
  readonly at: string;
  readonly from: string;
  readonly to: readonly string[];
  readonly subject: string;
  readonly text: string;
  /** Who signed in to hand it over; empty: nobody did. */
  readonly by: string;
}

/** A mail server that keeps what it is given for whoever wants to read it, and hands nothing on. */
export class MailCatcher {
  private readonly mails: Caught[] = [];
  private readonly server = new SMTPServer({
    authOptional: true,
    allowInsecureAuth: true,
    disabledCommands: ['STARTTLS'],
    disableReverseLookup: true,
    size: MOST_OCTETS,
    logger: false,
    onAuth: ({ username, password }, _session, done) => {
      if (username === CATCHER_ACCOUNT.user && password === CATCHER_ACCOUNT.pass) done(null, { user: username });
      else done(new Error('Nobody of that name and password'));
    },
    onRcptTo: ({ address }, _session, done) => {
      if (!address.endsWith(NOWHERE)) return done();
      done(Object.assign(new Error('No such mailbox'), { responseCode: 550 }));
    },
    onData: (stream, { envelope, user }, done) => {
      const chunks: Buffer[] = [];
      stream.on('data', (chunk: Buffer) => chunks.push(chunk));
      stream.on('end', () => {
        if (stream.sizeExceeded) return done(Object.assign(new Error('Too large'), { responseCode: 552 }));
        const to = envelope.rcptTo.map(({ address }) => address);
        const from = envelope.mailFrom === false ? '' : envelope.mailFrom.address;
        this.keep(Buffer.concat(chunks), { from, to, by: typeof user === 'string' ? user : '' }).then(
          () => done(),
          done,
        );
      });
    },
  });
  port = 0;

  /** The latest first. */
  get all(): readonly Caught[] {
    return this.mails;
  }

  /** @param port TCP; 0: any. */
  listen(port: number): Promise<void> {
    return new Promise((resolve, reject) => {
      this.server.on('error', reject);
      const { server } = this.server;
      this.server.listen(port, '127.0.0.1', () => {
        this.port = (server.address() as { port: number }).port;
        resolve();
      });
    });
  }

  close(): Promise<void> {
    return new Promise((resolve) => this.server.close(() => resolve()));
  }

  private async keep(raw: Buffer, envelope: Pick<Caught, 'from' | 'to' | 'by'>): Promise<void> {
    const { subject = '', text = '' } = await PostalMime.parse(raw);
    this.mails.unshift({ at: new Date().toISOString(), ...envelope, subject, text: text.trim() });
    this.mails.length = Math.min(this.mails.length, MOST_KEPT);
  }
}
