import { AccountIssuerStandIn } from './accounts/issuer';
import { MailCatcher } from './mail/catcher';
import { TextCatcher } from './mail/text-catcher';
import { Device } from './devices/device';
import { leaseOf, openPage, smallWindow, type Lease, type Page } from './phone';
import type { DirectoryFile } from './radius/directory-file';
import { EntryDesk } from './radius/entry-desk';
import { World } from './world/world';
import type { WorldFile } from './world/world-file';

/** A world and its devices in one process. */
export class Fleet {
  readonly world: World;
  readonly devices = new Map<string, Device>();
  /** Where its boxes ask who somebody is. */
  readonly entry: EntryDesk;
  /** Takes mail, and keeps it to be read. */
  readonly mail = new MailCatcher();
  /** Keeps accounts that guests sign in with elsewhere. */
  readonly accounts = new AccountIssuerStandIn();
  /** Takes text messages, and keeps them to be read. */
  readonly texts = new TextCatcher();

  /**
   * @param controllerUrl `ws://host:port`.
   * @param sweepPort UDP port at which boxes that wait answer; 0: they do not.
   * @param directory RADIUS servers of the world, and whom they know.
   * @param stateFolder where devices keep their memory; null to keep it only in this process.
   */
  constructor(
    file: WorldFile,
    controllerUrl: string,
    stateFolder: string | null,
    sweepPort = 0,
    directory: DirectoryFile | null = null,
  ) {
    this.world = new World(file);
    this.entry = new EntryDesk(this.world, directory, new URL(controllerUrl).hostname.replace(/^\[|\]$/g, ''));
    for (const identity of file.devices)
      this.devices.set(
        identity.serial,
        new Device(identity, this.world, controllerUrl, stateFolder, {
          sweepPort,
          invite: (serial) => this.devices.get(serial)?.invited(),
          answered: (serial, port) => this.entry.controllerAt(serial, port),
          ask: (serial, entry) => this.entry.ask(serial, entry),
          judge: (serial, bytes) => this.entry.changes.judge(this.world.box(serial), bytes),
          learn: (serial, probe) => this.entry.learn(serial, probe),
        }),
      );
    this.world.onChange((serials) => {
      for (const serial of serials) this.devices.get(serial)?.surroundingsChanged();
    });
  }

  /** Switches every device on, or those named. */
  start(serials: Iterable<string> = this.devices.keys()): void {
    this.world.begin();
    for (const serial of serials) if (this.world.isPowered(serial)) this.device(serial).start();
  }

  stop(): void {
    this.entry.close();
    this.world.paths.stop();
    void this.mail.close();
    for (const device of this.devices.values()) device.stop();
  }

  /** What a client’s browser is answered that asks for a page. */
  open = (mac: string, url: string): Page => openPage(this.world, this.devices, mac, url);

  /** What a client was given by DHCP; null while it is on no network. */
  leaseOf = (mac: string): Lease | null => leaseOf(this.world, this.devices, mac);

  /** What a phone’s own small window opens with; null: it stays closed. */
  windowOf = (mac: string): string | null => smallWindow(this.world, this.devices, mac);

  /** Pulls or plugs a device's power. */
  power(serial: string, on: boolean): void {
    const device = this.device(serial);
    if (!on) {
      device.stop();
      this.entry.classes.forget(serial);
    }
    this.world.power(serial, on);
    if (on) device.start();
  }

  device(serial: string): Device {
    const device = this.devices.get(serial);
    if (!device) throw new RangeError(`no device ${serial} in this fleet`);
    return device;
  }
}
