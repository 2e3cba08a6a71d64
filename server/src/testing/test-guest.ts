/** A guest’s browser in the hands of a test: it follows where it is sent, and keeps its cookies. */
export class TestGuest {
  status = 0;
  text = '';
  headers = new Headers();
  private readonly cookies = new Map<string, string>();

  constructor(
    private readonly origin: string,
    private readonly language = 'en',
  ) {}

  /** Comes with word of the device that holds it. */
  static async come(origin: string, word: string, language = 'en'): Promise<TestGuest> {
    const guest = new TestGuest(origin, language);
    await guest.go(`/?who=${encodeURIComponent(word)}`);
    return guest;
  }

  /** What its forms prove by that they are of this page. */
  get proof(): string {
    return /name="proof" value="([^"]+)"/.exec(this.text)?.[1]?.replaceAll('&#x3D;', '=') ?? '';
  }

  async go(path: string): Promise<void> {
    await this.follow(path, {});
  }

  /** Sends a form of the page in front. */
  press = (path: string, fields: Readonly<Record<string, string>> = {}): Promise<void> =>
    this.send(path, { proof: this.proof, ...fields });

  async send(path: string, fields: Readonly<Record<string, string>>): Promise<void> {
    await this.follow(path, { method: 'POST', body: new URLSearchParams(fields) });
  }

  /** Looks again until the page is as it should be. */
  async until(test: (guest: TestGuest) => boolean, withinMs = 10_000): Promise<void> {
    for (const deadline = Date.now() + withinMs; ;) {
      await this.go('/');
      if (test(this)) return;
      if (Date.now() > deadline) throw new Error(`the page stays as it is: ${this.text.slice(0, 2000)}`);
    }
  }

  private async follow(path: string, options: RequestInit): Promise<void> {
    const response = await fetch(`${this.origin}${path}`, {
      ...options,
      redirect: 'manual',
      headers: { cookie: [...this.cookies.values()].join('; '), 'accept-language': this.language },
    });
    for (const set of response.headers.getSetCookie()) this.cookies.set(set.split('=')[0]!, set.split(';')[0]!);
    if (response.status === 303) return this.follow(response.headers.get('location')!, {});
    this.status = response.status;
    this.headers = response.headers;
    // As somebody reads it: what keeps directions apart is not seen.
    this.text = (await response.text()).replace(/[\u2066-\u2069]/g, '');
  }
}
