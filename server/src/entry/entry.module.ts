import { TRACE_WRITERS } from '../roster/client-traces';
import { ENTRY_DOUBTS } from '../roster/entry-doubts-offer';
import { ENTRY } from '../roster/entry-offer';
import { KEPT_USER, USER_PROOF, USERS } from '../roster/user-offer';
import type { Stage } from '../stage';
import { Answering } from './answering/answering';
import { AskingDevices, TRIAL_SECONDS } from './answering/asking-devices';
import { REFUSAL_DAYS } from './answering/refusal-book';
import { CertificateService } from './certificates/certificate.service';
import { ServerAsking } from './server-asking';
import { directoryRoutes } from './directory/directory.routes';
import { DirectoryService } from './directory/directory.service';
import { EntryTestService } from './entry-test.service';
import { entryRoutes } from './entry.routes';
import { EndingCertificates } from './certificates/ending-certificates';
import { IssuedService } from './certificates/issued.service';
import { certificateRoutes } from './certificates/certificate.routes';
import * as users from './migrations/0012-users';
import * as taken from './migrations/0013-taken';
import * as failures from './migrations/0014-failures';
import * as shown from './migrations/0018-shown';
import * as directories from './migrations/0017-directory';
import * as issued from './migrations/0016-issued';
import * as seen from './migrations/0015-register';
import { FAILURE_DAYS, FailureBook } from './failure-book';
import { SessionChangeService } from './session-change.service';
import { TakenBook } from './taken-book';
import { openRegister } from './register/register';
import { REGISTER_HOUSEKEEPING } from './register/keeping.service';
import { UserSitesService } from './user-sites.service';
import { UserListService } from './user-list.service';
import { userRoutes } from './user.routes';
import { UserService } from './user.service';

export const entry: Stage = {
  name: 'entry',
  migrations: [users, taken, failures, seen, issued, directories, shown],
  heavy: new URL('./entry.heavy.ts', import.meta.url),
  housekeeping: [
    `DELETE FROM entry_trial WHERE at < now() - make_interval(secs => ${TRIAL_SECONDS})`,
    `DELETE FROM entry_failure WHERE at < now() - make_interval(days => ${FAILURE_DAYS})`,
    `DELETE FROM entry_refusal WHERE day < current_date - ${REFUSAL_DAYS}`,
    `DELETE FROM entry_user WHERE removed_at < now() - interval '1 day'`,
    // Of users that may come with any number of devices, those that did not for long are forgotten.
    `DELETE FROM entry_user_device d USING entry_user u WHERE u.id = d.user_id AND u.most IS NULL AND d.last_at < now() - interval '90 days'`,
    // Of servers that are no more, and those that nobody asked for very long.
    `DELETE FROM entry_shown WHERE at < now() - interval '400 days'`,
    ...REGISTER_HOUSEKEEPING,
  ],
  open: (ground) => {
    const { offers, config, database, bus, heavy, intents, drafts, secrets, commands, rosters, lines } = ground;
    const { attempts, failed } = ground;
    const register = openRegister(ground);
    const devices = new AskingDevices(database, intents, secrets);
    const certificates = new CertificateService(database, intents, secrets);
    const directory = new DirectoryService(database, secrets, bus, failed);
    const answering = new Answering(database, bus, devices, certificates, directory, failed, (port) =>
      lines.answersAt({ entry: port }),
    );
    const kept = new UserService(database, bus);
    const takenBook = new TakenBook(database, (deviceId, error) => lines.misreported(deviceId, error), failed);
    const failureBook = new FailureBook(database, (deviceId, error) => lines.misreported(deviceId, error), failed);
    offers.join(TRACE_WRITERS, failureBook);
    lines.listen({
      reported: async ({ deviceId }, report) => {
        if (report.taken) takenBook.take(deviceId, report.taken);
        failureBook.take(deviceId, report);
      },
    });
    const ending = new EndingCertificates(database);
    const asking = new ServerAsking(secrets, commands, devices, certificates, ending);
    offers.make(ENTRY, (question) => asking.askAll(question));
    offers.make(KEPT_USER, async (name) => (await kept.keptAs(name)) ?? directory.person(name));
    offers.make(ENTRY_DOUBTS, async () => ({
      directory: await directory.doubts(),
      certificates: await ending.ending(),
      shortKeys: (await certificates.authorityBits()) === 256,
    }));
    offers.make(USER_PROOF, (asked) => answering.prove(asked));
    offers.make(USERS, (words, most) => kept.find(words, most));
    return {
      routes: [
        ...entryRoutes(new EntryTestService(drafts, commands, asking), rosters, {
          changes: new SessionChangeService(intents, secrets, commands),
          taken: takenBook,
          failures: failureBook,
          called: register.called,
        }),
        ...userRoutes(
          kept,
          new UserListService(kept, heavy),
          () => answering.view,
          attempts,
          bus,
          new UserSitesService(database, drafts),
        ),
        ...certificateRoutes(certificates, new IssuedService(database, certificates, bus, ending)),
        ...register.routes,
        ...directoryRoutes(directory),
      ],
      begin: async () => {
        await answering.begin(config.entryPort === null ? null : { host: config.host, port: config.entryPort });
        directory.begin();
      },
      settle: async () => {
        await Promise.all([
          answering.close(),
          directory.close(),
          takenBook.close(),
          failureBook.close(),
          register.settle(),
        ]);
      },
    };
  },
};
