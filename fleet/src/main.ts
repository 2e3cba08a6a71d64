import { parseArgs } from 'node:util';
import { pino } from 'pino';
import { listenForControl } from './control';
import { Fleet } from './fleet';
import { readDirectory } from './radius/directory-file';
import { readWorld } from './world/world-file';

const { values } = parseArgs({
  options: {
    world: { type: 'string' },
    controller: { type: 'string', default: 'ws://127.0.0.1:8620' },
    state: { type: 'string' },
    control: { type: 'string', default: '8621' },
    'sweep-port': { type: 'string', default: '8622' },
    radius: { type: 'string' },
    'radius-port': { type: 'string', default: '0' },
    'mail-port': { type: 'string', default: '0' },
  },
});
if (!values.world)
  throw new Error(
    'usage: main.ts --world FILE [--controller ws://HOST:PORT] [--state DIR] [--control PORT] [--sweep-port PORT] [--radius FILE] [--radius-port PORT] [--mail-port PORT]',
  );

/** Exit code of a process that has said itself why it does not start (EX_CONFIG of sysexits.h). */
const SAID = 78;
const log = pino({ name: 'fleet', level: process.env['LATTICE_LOG'] ?? 'warn' });
const fleet = new Fleet(
  readWorld(values.world),
  values.controller,
  values.state ?? null,
  Number(values['sweep-port']),
  values.radius ? readDirectory(values.radius) : null,
);
const control = await listenForControl(fleet, Number(values.control)).catch((error: NodeJS.ErrnoException) => {
  if (error.code !== 'EADDRINUSE') throw error;
  process.stderr.write(
    `Port ${values.control} of the demo’s fleet is taken. Stop what listens there, or set LATTICE_FLEET_PORT to another one.\n`,
  );
  process.exit(SAID);
});
await fleet.entry.listen(Number(values['radius-port']));
await fleet.mail.listen(Number(values['mail-port']));
fleet.start();
const radius = fleet.entry.standIns.map(({ server, ports }) => ({
  name: server.name,
  port: ports.auth,
  secret: server.secret,
}));
const asked = fleet.entry.directory;
const [account] = Object.entries(asked?.file.accounts ?? {});
const directory = asked && {
  ...asked.ports,
  ...{
    base: asked.file.base,
    account: account?.[0],
    password: account?.[1].password,
    authority: fleet.entry.authority?.pem,
  },
};
process.send?.({ ready: true, radius, changes: fleet.entry.changes.port, directory, mail: fleet.mail.port });
log.info({ devices: fleet.devices.size }, 'fleet runs');

// Whoever started us is gone: nobody would ever stop us.
process.once('disconnect', () => process.exit(0));
if (process.connected === false) process.exit(0); // gone before we listened

for (const signal of ['SIGINT', 'SIGTERM'] as const) {
  process.once(signal, () => {
    fleet.stop();
    control.close();
    process.exit(0);
  });
}
