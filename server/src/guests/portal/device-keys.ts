import { createPublicKey, verify, type KeyObject } from 'node:crypto';
import { QueryTypes, type Sequelize } from 'sequelize';

/** How long a device is remembered, in milliseconds, and how many are: another controller may know better since. */
const [REMEMBERED_MS, MOST_KNOWN] = [2000, 10_000];

interface DeviceRow {
  readonly id: string;
  readonly site_id: string;
  readonly public_key: string;
}

/** Devices that have a place, and the keys by which their word is known. */
export class DeviceKeys {
  private readonly keys = new Map<string, KeyObject>();
  private readonly devices = new Map<string, { readonly device: DeviceRow; readonly at: number }>();

  constructor(private readonly database: Sequelize) {}

  /**
   * The device that signed a text (Ed25519, RFC 8032); null: none of that serial number did. Hundreds of guests come a second, many by the
   * same.
   * @param signature base64url.
   */
  async signerOf(serial: string, text: string, signature: string): Promise<{ id: string; siteId: string } | null> {
    const device = await this.deviceOf(serial);
    if (!device) return null;
    const right = verify(null, Buffer.from(text), this.keyOf(device.public_key), Buffer.from(signature, 'base64url'));
    return right ? { id: device.id, siteId: device.site_id } : null;
  }

  private async deviceOf(serial: string): Promise<DeviceRow | null> {
    const known = this.devices.get(serial);
    if (known && performance.now() - known.at < REMEMBERED_MS) return known.device;
    const [device] = await this.database.query<DeviceRow>(
      'SELECT id, site_id, public_key FROM device WHERE serial = :serial AND site_id IS NOT NULL AND public_key IS NOT NULL',
      { replacements: { serial }, type: QueryTypes.SELECT },
    );
    if (!device) return null;
    if (this.devices.size >= MOST_KNOWN) this.devices.clear();
    this.devices.set(serial, { device, at: performance.now() });
    return device;
  }

  private keyOf(text: string): KeyObject {
    let key = this.keys.get(text);
    if (!key) {
      key = createPublicKey({ key: Buffer.from(text, 'base64'), format: 'der', type: 'spki' });
      if (this.keys.size >= MOST_KNOWN) this.keys.clear();
      this.keys.set(text, key);
    }
    return key;
  }
}
