import { createCipheriv, createDecipheriv, createHmac, randomBytes } from 'node:crypto';
import { linkSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { StartRefusal } from './start-refusal';

const [NONCE, TAG, KEY] = [12, 16, 32];

/** Seals secrets with AES-256-GCM (NIST SP 800-38D) under a key that the database never sees. */
export class SecretBox {
  /** @param key 32 bytes. */
  constructor(private readonly key: Buffer) {
    if (key.length !== KEY) throw new RangeError(`a secret key has 32 bytes, not ${key.length}`);
  }

  /**
   * Opens the key file. It is made, readable by its owner alone, only while nothing is sealed under another.
   * @param sealed a secret that is kept, if any is.
   * @throws StartRefusal when the file is missing, is no key, or does not fit what is sealed.
   */
  static fromFile(path: string, sealed: { readonly id: string; readonly sealed: Buffer } | null): SecretBox {
    const restore = `Restore it from a backup; without it the secrets that are kept (passphrases) cannot be read.`;
    let key: Buffer;
    try {
      key = readFileSync(path);
    } catch (error) {
      const { code } = error as NodeJS.ErrnoException;
      if (code !== 'ENOENT')
        throw new StartRefusal(`The key file ${path} cannot be read (${code}). Let its owner read it.`);
      if (sealed) throw new StartRefusal(`The key file ${path} is missing. ${restore}`);
      key = randomBytes(KEY);
      mkdirSync(dirname(path), { recursive: true });
      keepWhole(path, key);
    }
    if (key.length !== KEY)
      throw new StartRefusal(
        `The key file ${path} has ${key.length} octets instead of ${KEY}: it is damaged. ${restore}`,
      );
    const box = new SecretBox(key);
    if (sealed)
      try {
        box.open(sealed.id, sealed.sealed);
      } catch {
        throw new StartRefusal(`The key in ${path} is not the one that the kept secrets were sealed with. ${restore}`);
      }
    return box;
  }

  /** @param id bound into the seal, so that one secret's bytes cannot stand in for another's. */
  seal(id: string, value: string): Buffer {
    const nonce = randomBytes(NONCE);
    const cipher = createCipheriv('aes-256-gcm', this.key, nonce).setAAD(Buffer.from(id));
    const body = Buffer.concat([cipher.update(value, 'utf8'), cipher.final()]);
    return Buffer.concat([nonce, cipher.getAuthTag(), body]);
  }

  /** Whether two secrets are alike can be told by these, and nothing else: HMAC-SHA-256 (RFC 2104) under the key. */
  print(of: string, value: string): string {
    return createHmac('sha256', this.key).update(`${of}\n${value}`).digest('base64');
  }

  /** @throws Error when the bytes were changed, are another secret's, or were sealed with another key. */
  open(id: string, sealed: Buffer): string {
    const decipher = createDecipheriv('aes-256-gcm', this.key, sealed.subarray(0, NONCE))
      .setAAD(Buffer.from(id))
      .setAuthTag(sealed.subarray(NONCE, NONCE + TAG));
    return Buffer.concat([decipher.update(sealed.subarray(NONCE + TAG)), decipher.final()]).toString('utf8');
  }
}

/** Makes a file that is there whole or not at all, whenever this process ends. @throws Error (EEXIST) when there is one. */
function keepWhole(path: string, content: Buffer): void {
  const aside = `${path}.new-${process.pid}`;
  rmSync(aside, { force: true }); // of a process that had this number and was killed
  try {
    writeFileSync(aside, content, { mode: 0o600, flag: 'wx', flush: true });
    linkSync(aside, path);
  } finally {
    rmSync(aside, { force: true });
  }
}
