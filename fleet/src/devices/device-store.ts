import { createHash, createPrivateKey, createPublicKey, generateKeyPairSync, type KeyObject } from 'node:crypto';
import { mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { KeptRing } from '../world/rings';
import type { DeviceDocument, FirstUplink } from '@iron-lattice/core/document';

/** A document with the secret values it refers to, as one thing: a device has both or neither. */
export interface KeptDocument {
  readonly hash: string;
  readonly document: DeviceDocument;
  readonly secrets: Readonly<Record<string, string>>;
}
interface Flash {
  readonly privateKey: string;
  readonly kept: KeptDocument | null;
  /** Release it runs, when it is not the factory's. */
  readonly firmware?: string;
  /** Keys of rings by the SSID's id. */
  readonly rings?: Readonly<Record<string, KeptRing>>;
  /** Controller that somebody told it of. */
  readonly invited?: string;
  /** What somebody said at its own page of how it comes to an address. */
  readonly first?: FirstUplink<string>;
}

/** A device's own memory: the key it was made with and the document it keeps. Written whole or not at all. */
export class DeviceStore {
  readonly privateKey: KeyObject;
  /** SubjectPublicKeyInfo in base64. */
  readonly publicKey: string;
  private flash: Flash;

  /** @param folder null: the memory is lost with the process. */
  constructor(
    private readonly folder: string | null,
    private readonly serial: string,
  ) {
    this.flash = this.read() ?? { privateKey: newKey(), kept: null };
    this.privateKey = createPrivateKey({
      key: Buffer.from(this.flash.privateKey, 'base64'),
      format: 'der',
      type: 'pkcs8',
    });
    this.publicKey = createPublicKey(this.privateKey).export({ format: 'der', type: 'spki' }).toString('base64');
    this.write();
  }

  get kept(): KeptDocument | null {
    return this.flash.kept;
  }

  /** Keeps a document; keys of rings that it does not name go. */
  keep(kept: KeptDocument | null): void {
    const ids =
      kept?.document.kind === 'ap'
        ? kept.document.ssids.flatMap(({ id, ring }) => (ring && !ring.asked ? [id] : []))
        : [];
    const rings = Object.fromEntries(Object.entries(this.rings).filter(([id]) => ids.includes(id)));
    this.flash = { ...this.flash, kept, rings };
    this.write();
  }

  get rings(): Readonly<Record<string, KeptRing>> {
    return this.flash.rings ?? {};
  }
  keepRing(ssidId: string, ring: KeptRing): void {
    this.flash = { ...this.flash, rings: { ...this.rings, [ssidId]: ring } };
    this.write();
  }

  get firmware(): string | undefined {
    return this.flash.firmware;
  }
  setFirmware(firmware: string): void {
    this.flash = { ...this.flash, firmware };
    this.write();
  }

  get invited(): string | undefined {
    return this.flash.invited;
  }
  setInvited(invited: string): void {
    this.flash = { ...this.flash, invited };
    this.write();
  }

  get first(): FirstUplink<string> | undefined {
    return this.flash.first;
  }
  setFirst(first: FirstUplink<string> | undefined): void {
    const { first: _old, ...rest } = this.flash;
    this.flash = first ? { ...rest, first } : rest;
    this.write();
  }

  private path(): string {
    return join(this.folder!, `${this.serial}.json`);
  }

  private read(): Flash | null {
    if (this.folder === null) return null;
    try {
      return JSON.parse(readFileSync(this.path(), 'utf8')) as Flash;
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code === 'ENOENT') return null;
      throw error;
    }
  }

  private write(): void {
    if (this.folder === null) return;
    mkdirSync(this.folder, { recursive: true });
    writeFileSync(`${this.path()}.new`, JSON.stringify(this.flash), { mode: 0o600 });
    renameSync(`${this.path()}.new`, this.path());
  }
}

const newKey = (): string =>
  generateKeyPairSync('ed25519').privateKey.export({ format: 'der', type: 'pkcs8' }).toString('base64');

/** The short form of a key on a label: the first 16 hex digits of its SHA-256. */
export const fingerprintOf = (publicKey: string): string =>
  createHash('sha256').update(Buffer.from(publicKey, 'base64')).digest('hex').slice(0, 16);
