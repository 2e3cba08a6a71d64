import type { Ground } from '../../ground';
import { CLIENT_HOSTS, CLIENT_NAMES, type ClientNamer } from '../../roster/client-names-offer';
import { TRACE_WRITERS } from '../../roster/client-traces';
import { GUESTS_ERASED } from '../../roster/guest-offer';
import { CLIENTS } from '../../roster/user-offer';
import type { OpenStage } from '../../stage';
import { KeepingService } from './keeping.service';
import { RegisterBook } from './register-book';
import { registerRoutes } from './register.routes';
import { RegisterService } from './register.service';

/** The register of clients: written as devices report, read and named by people. */
export function openRegister({ database, bus, intents, lines, offers, failed }: Ground): Required<
  Pick<OpenStage, 'routes' | 'settle'>
> & {
  readonly called: ClientNamer;
} {
  const book = new RegisterBook(database, (deviceId, error) => lines.misreported(deviceId, error), failed);
  lines.listen({
    reported: async ({ deviceId }, report) => book.take(deviceId, report),
    left: async ({ deviceId }) => book.left(deviceId),
  });
  const offs = [
    bus.on('register', () => book.anew()),
    bus.on('erased', ({ macs }) => void register.forgetLate(macs).catch(failed)),
  ];
  const settled = async (): Promise<void> => {
    await Promise.all([book, ...offers.all(TRACE_WRITERS)].map((writer) => writer.flush()));
  };
  const register = new RegisterService(database, intents, { book, settled }, bus, (...erased) =>
    offers.take(GUESTS_ERASED)(...erased),
  );
  const called: ClientNamer = (macs) => register.names(macs);
  offers.make(CLIENT_NAMES, called);
  offers.make(CLIENT_HOSTS, (macs) => register.hosts(macs));
  offers.make(CLIENTS, (words, most) => register.find(words, most));
  return {
    called,
    routes: registerRoutes(register, new KeepingService(database, intents, settled, bus)),
    settle: async () => {
      for (const off of offs) off();
      await book.close();
    },
  };
}
