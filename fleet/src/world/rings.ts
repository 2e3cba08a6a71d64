import type { RingKey } from '@iron-lattice/core/document';
import { keyKind, pairwiseKey } from '@iron-lattice/core/wireless';

/** What a box keeps of a ring. */
export interface KeptRing {
  readonly at: number;
  readonly keys: readonly RingKey[];
}

/** What the controller says of a ring. */
export interface RingChange extends KeptRing {
  readonly after: number;
  readonly gone: readonly string[];
}

/** Whether a key is the one that a client gives: as it is, or as the master key that is made of that for a network. */
export function isSameKey(key: string, given: string, ssid: string): boolean {
  const kind = keyKind(key);
  if (kind === null) return false;
  if (kind === 'passphrase') return key === given;
  const made = keyKind(given) === 'passphrase' ? pairwiseKey(given, new TextEncoder().encode(ssid)) : given;
  return key.toLowerCase() === made.toLowerCase();
}

/** The keys of one SSID as an AP holds them: found by what a client gives. */
export class KeyRing {
  private readonly byId = new Map<string, RingKey>();
  private readonly byText = new Map<string, RingKey>();
  /** How many of them are the pairwise master key itself. */
  private made = 0;
  at = 0;

  constructor(kept: KeptRing = { at: 0, keys: [] }) {
    this.at = kept.at;
    for (const key of kept.keys) this.put(key);
  }

  /** @returns whether it follows what is here: else nothing is taken of it. */
  take({ after, at, keys, gone }: RingChange): boolean {
    if (after !== 0 && after !== this.at) return false;
    if (after === 0) for (const id of [...this.byId.keys()]) this.drop(id);
    for (const id of gone) this.drop(id);
    for (const key of keys) this.put(key);
    this.at = at;
    return true;
  }

  /** The key that a client gives. @param ssid name of the network, which master keys are made with. */
  find(passphrase: string | undefined, ssid: string): RingKey | null {
    if (passphrase === undefined) return null;
    const typed = this.byText.get(passphrase);
    if (typed || this.made === 0 || keyKind(passphrase) !== 'passphrase') return typed ?? null;
    return this.byText.get(pairwiseKey(passphrase, new TextEncoder().encode(ssid))) ?? null;
  }

  get keys(): readonly RingKey[] {
    return [...this.byId.values()];
  }
  get kept(): KeptRing {
    return { at: this.at, keys: this.keys };
  }

  private put(key: RingKey): void {
    this.drop(key.id);
    this.byId.set(key.id, key);
    this.byText.set(key.key.length === 64 ? key.key.toLowerCase() : key.key, key);
    if (key.key.length === 64) this.made++;
  }

  private drop(id: string): void {
    const key = this.byId.get(id);
    if (!key) return;
    this.byId.delete(id);
    this.byText.delete(key.key.length === 64 ? key.key.toLowerCase() : key.key);
    if (key.key.length === 64) this.made--;
  }
}
