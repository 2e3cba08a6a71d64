/** Callers that have not proved anything yet, from one address and in all; others are asked to call again. */
const MOST_UNPROVEN = { ofAddress: 1000, inAll: 2000 } as const;

/** Counts callers that have not proved who they are, so that they leave room for others. */
export class UnprovenCallers {
  private readonly byAddress = new Map<string, number>();
  private all = 0;

  /** Whether one more from an address may be heard. */
  hasRoom(from: string): boolean {
    return (this.byAddress.get(from) ?? 0) < MOST_UNPROVEN.ofAddress && this.all < MOST_UNPROVEN.inAll;
  }

  /** @returns what is called once it has proved itself, or has gone; a second call does nothing. */
  enter(from: string): () => void {
    this.byAddress.set(from, (this.byAddress.get(from) ?? 0) + 1);
    this.all++;
    let counted = true;
    return () => {
      if (!counted) return;
      counted = false;
      this.all--;
      const left = this.byAddress.get(from)! - 1;
      if (left > 0) this.byAddress.set(from, left);
      else this.byAddress.delete(from);
    };
  }
}
