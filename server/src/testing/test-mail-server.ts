import PostalMime from 'postal-mime';
import { SMTPServer } from 'smtp-server';

/** A mail that came. */
export interface CameMail {
  readonly from: string;
  readonly to: string;
  readonly subject: string;
  readonly text: string;
  /** Who signed in to hand it over; empty: nobody did. */
  readonly by: string;
}

/** A mail server in the hands of a test: `gulls` is the password of everybody, nobody is at `gone@`. */
export class TestMailServer {
  readonly came: CameMail[] = [];
  private readonly server = new SMTPServer({
    ...{ authOptional: true, allowInsecureAuth: true, disabledCommands: ['STARTTLS'], disableReverseLookup: true },
    onAuth: ({ username, password }, _session, done) =>
      password === 'gulls' ? done(null, { user: username ?? '' }) : done(new Error('no')),
    onRcptTo: ({ address }, _session, done) =>
      address.startsWith('gone@') ? done(Object.assign(new Error('No such mailbox'), { responseCode: 550 })) : done(),
    onData: (stream, { envelope, user }, done) => {
      let raw = '';
      stream.on('data', (chunk: Buffer) => (raw += chunk.toString()));
      stream.on('end', () => {
        void PostalMime.parse(raw).then(({ subject = '', text = '', from }) => {
          const to = envelope.rcptTo.map(({ address }) => address).join();
          this.came.push({ from: from?.address ?? '', to, subject, text, by: user ?? '' });
          done();
        });
      });
    },
  });

  /** @returns its TCP port. */
  async listen(): Promise<number> {
    await new Promise<void>((resolve) => this.server.listen(0, '127.0.0.1', resolve));
    return (this.server.server.address() as { port: number }).port;
  }

  close = (): void => void this.server.close();
}
