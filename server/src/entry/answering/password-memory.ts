import { createHmac, randomBytes } from 'node:crypto';
import { isPassword } from '../../platform/password-hash';

/** Passwords that are worked out at the same time, of how many devices of ours one may wait for, and how many in all. */
const [AT_ONCE, MOST_OF_ONE, MOST_WAITING] = [2, 8, 64];
/** Passwords that are remembered as right, and for how long, in milliseconds. */
const [MOST_RIGHT, RIGHT_MS] = [40_000, 8 * 3_600_000];
/** Wrong passwords in a while after which a user is not tried any more: from one device, and from all. */
const WRONG = { ofDevice: 10, ofAll: 100, ms: 300_000, most: 20_000 } as const;

/** A user, by how their password is kept. */
interface Hashed {
  readonly id: string;
  readonly hash: string;
}

/** Why a password is not looked at. */
export type Unjudged = 'busy' | 'guessed';

/**
 * Whether passwords are right. Working one out costs 20 MB and tens of milliseconds: who was right is remembered, as a keyed hash of the
 * password and of how it is kept, so that another password or none is another matter at once.
 */
export class PasswordMemory {
  private readonly key = randomBytes(32);
  private readonly right = new Map<string, number>();
  private readonly wrong = new Map<string, { count: number; until: number }>();
  private readonly judging = new Map<string, Promise<boolean | 'busy'>>();
  private readonly waiting: { readonly by: string; readonly go: () => void }[] = [];
  private readonly waitingOf = new Map<string, number>();
  private running = 0;

  constructor(private readonly now: () => number = Date.now) {}

  /**
   * Whether a password is a user's.
   * @param by device of ours that asks. @param mac address of who is asked for.
   */
  async judge(
    { id: name, hash: kept }: Hashed,
    password: Uint8Array,
    by: string,
    mac: string,
  ): Promise<boolean | Unjudged> {
    const print = createHmac('sha256', this.key).update(`${name}\0${kept}\0`).update(password).digest('base64');
    const until = this.right.get(print);
    if (until !== undefined && until > this.now()) return true;
    const of = { id: name, mac };
    if (this.isGuessed(of)) return 'guessed';
    // The same over and over, such as one that asks again before it is answered, is worked out once.
    const before = this.judging.get(print);
    if (before) return before;
    const judged = this.workOut(kept, password, by).finally(() => this.judging.delete(print));
    this.judging.set(print, judged);
    const fits = await judged;
    if (fits === 'busy') return 'busy';
    if (fits) remember(this.right, print, this.now() + RIGHT_MS, MOST_RIGHT);
    else this.countWrong(of);
    return fits;
  }

  /** Whether so many wrong passwords came for somebody that no further one is looked at for a while. */
  isGuessed({ id, mac }: { readonly id: string; readonly mac: string }): boolean {
    return this.wrongOf(`${id} ${mac}`) >= WRONG.ofDevice || this.wrongOf(id) >= WRONG.ofAll;
  }

  countWrong({ id, mac }: { readonly id: string; readonly mac: string }): void {
    this.count(`${id} ${mac}`);
    this.count(id);
  }

  private async workOut(kept: string, password: Uint8Array, by: string): Promise<boolean | 'busy'> {
    if (!(await this.turn(by))) return 'busy';
    try {
      return await isPassword(kept, password);
    } finally {
      this.next();
    }
  }

  private wrongOf(key: string): number {
    const found = this.wrong.get(key);
    return found && found.until > this.now() ? found.count : 0;
  }

  private count(key: string): void {
    const count = this.wrongOf(key) + 1;
    remember(this.wrong, key, { count, until: this.now() + WRONG.ms }, WRONG.most);
  }

  /** Waits until it may be worked out. @returns false where too many wait. */
  private async turn(by: string): Promise<boolean> {
    if (this.running < AT_ONCE) {
      this.running++;
      return true;
    }
    const mine = this.waitingOf.get(by) ?? 0;
    if (mine >= MOST_OF_ONE || this.waiting.length >= MOST_WAITING) return false;
    this.waitingOf.set(by, mine + 1);
    await new Promise<void>((go) => this.waiting.push({ by, go }));
    return true;
  }

  private next(): void {
    const first = this.waiting.shift();
    if (!first) {
      this.running--;
      return;
    }
    const left = this.waitingOf.get(first.by)! - 1;
    if (left > 0) this.waitingOf.set(first.by, left);
    else this.waitingOf.delete(first.by);
    first.go();
  }
}

function remember<T>(all: Map<string, T>, key: string, value: T, most: number): void {
  all.delete(key);
  if (all.size >= most) all.delete(all.keys().next().value!);
  all.set(key, value);
}
