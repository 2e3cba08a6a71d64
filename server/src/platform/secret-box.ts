import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';

const [NONCE, TAG] = [12, 16];

/** Seals secrets with AES-256-GCM (NIST SP 800-38D) under a key that the database never sees. */
export class SecretBox {
  /** @param key 32 bytes. */
  constructor(private readonly key: Buffer) {
    if (key.length !== 32) throw new RangeError(`a secret key has 32 bytes, not ${key.length}`);
  }

  /** Opens the key file, or makes it, readable by its owner alone. */
  static fromFile(path: string): SecretBox {
    try {
      return new SecretBox(readFileSync(path));
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'ENOENT') throw error;
    }
    const key = randomBytes(32);
    mkdirSync(dirname(path), { recursive: true });
    writeFileSync(path, key, { mode: 0o600, flag: 'wx' });
    return new SecretBox(key);
  }

  /** @param id bound into the seal, so that one secret's bytes cannot stand in for another's. */
  seal(id: string, value: string): Buffer {
    const nonce = randomBytes(NONCE);
    const cipher = createCipheriv('aes-256-gcm', this.key, nonce).setAAD(Buffer.from(id));
    const body = Buffer.concat([cipher.update(value, 'utf8'), cipher.final()]);
    return Buffer.concat([nonce, cipher.getAuthTag(), body]);
  }

  /** @throws Error when the bytes were changed, are another secret's, or were sealed with another key. */
  open(id: string, sealed: Buffer): string {
    const decipher = createDecipheriv('aes-256-gcm', this.key, sealed.subarray(0, NONCE))
      .setAAD(Buffer.from(id))
      .setAuthTag(sealed.subarray(NONCE, NONCE + TAG));
    return Buffer.concat([decipher.update(sealed.subarray(NONCE + TAG)), decipher.final()]).toString('utf8');
  }
}
