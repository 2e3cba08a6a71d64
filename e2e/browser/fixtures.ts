import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { expect, test as base, type BrowserContext, type Locator, type Page } from '@playwright/test';
import { Estate } from '../system/estate';

const axeSource = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

export const STAGES = [
  'Intake',
  'Lattice',
  'Wireless',
  'Rules',
  'Entry',
  'Guests',
  'Paths',
  'Bench',
  'Rollout',
] as const;
export type StageName = (typeof STAGES)[number];

/** Milliseconds that a button may stay out of reach: what stands against it is told long before. */
const MOST_WAITED = 90_000;

/** The application as a person at a desk uses it: by what it says, not by how it is built. */
export class Desk {
  constructor(
    readonly page: Page,
    readonly estate: Estate,
  ) {}

  /** Signed in as the administrator, with the session that the estate has: most tests are not about the door. */
  async signIn(): Promise<void> {
    const [name, value] = this.estate.cookie.split('=') as [string, string];
    await this.page.context().addCookies([{ name, value, url: this.estate.address }]);
    await this.page.goto(this.estate.address);
    await expect(this.page.getByRole('heading', { name: 'Skerrow Ferries' })).toBeVisible();
  }

  /** The same through the door. */
  async signInByForm(email = 'ida@skerrow.example', password = 'lattice-demo-26'): Promise<void> {
    await this.page.goto(this.estate.address);
    await this.page.getByLabel('Mail address').fill(email);
    await this.page.getByLabel('Password').fill(password);
    await this.page.getByRole('button', { name: 'Sign in' }).click();
    await expect(this.page.getByRole('heading', { name: 'Skerrow Ferries' })).toBeVisible();
  }

  async openSite(name: string, stage: StageName = 'Intake'): Promise<void> {
    await this.page.getByRole('link', { name: 'Iron Lattice, all sites' }).click();
    await this.page.getByRole('link', { name, exact: true }).click();
    await this.stage(stage);
  }

  async stage(name: StageName): Promise<void> {
    await this.page.getByRole('navigation', { name: 'Stages' }).getByRole('link', { name }).click();
    await expect(this.page.getByRole('heading', { name, exact: true })).toBeVisible();
  }

  /** Goes to what is seen over all sites. */
  async overall(name: string): Promise<void> {
    await this.page.getByRole('link', { name: 'Iron Lattice, all sites' }).click();
    await this.page.getByRole('navigation', { name: 'Estate' }).getByRole('link', { name, exact: true }).click();
    await expect(this.page.getByRole('heading', { name, exact: true })).toBeVisible();
  }

  async addSite(name: string): Promise<void> {
    await this.press('Add site');
    await this.page.getByLabel('Name', { exact: true }).fill(name);
    await expect(this.page.getByLabel('Short form, for device names')).not.toHaveValue('');
    await this.sheet('New site').getByRole('button', { name: 'Add site' }).click();
    await this.page.waitForURL(/\/sites\//);
  }

  async claimAllCalling(): Promise<void> {
    await this.press('Choose all 3');
    await this.press('Claim 3 devices');
    for (const name of ['gw', 'sw', 'ap'])
      await expect(this.page.getByRole('row', { name: new RegExp(`in step \\S+-${name}-01`) })).toBeVisible();
  }

  async addSegment(name: string, vlan: number): Promise<void> {
    await this.stage('Lattice');
    await this.press('Add segment');
    await this.page.getByLabel('Name', { exact: true }).fill(name);
    await this.page.getByLabel('VLAN ID').fill(String(vlan));
    await expect(this.page.getByLabel('Subnet')).not.toHaveValue('');
    await this.sheet('New segment').getByRole('button', { name: 'Add segment' }).click();
    await expect(this.sheet(name)).toBeVisible();
  }

  async addSsid(name: string, passphrase: string, segment: string): Promise<void> {
    await this.stage('Wireless');
    await this.press('Add SSID');
    const sheet = this.sheet('New SSID');
    await sheet.getByLabel('Name on the air').fill(name);
    await sheet.getByLabel('Passphrase').fill(passphrase);
    await sheet.getByRole('combobox', { name: 'Segment' }).click();
    await this.page.getByRole('option', { name: new RegExp(segment) }).click();
    await sheet.getByRole('button', { name: 'Add SSID' }).click();
    await expect(this.sheet(name)).toBeVisible();
  }

  /** Turns whom clients of an SSID of several sites may reach, and goes to where the draft is rolled out. */
  async turnInSsid(name: string, box: string): Promise<void> {
    await this.openSite('Brinmouth', 'Wireless');
    await this.page.getByRole('button', { name }).click();
    const sheet = this.sheet(name);
    await sheet.getByRole('checkbox', { name: box }).click();
    await this.putIntoDraft(sheet);
    await this.page.getByRole('link', { name: 'Iron Lattice, all sites' }).click();
    await this.page.getByRole('link', { name: /^Roll(ing)? out…$/ }).click();
  }

  /** Puts what was typed in a sheet into the draft, and waits until it is there. */
  async putIntoDraft(sheet: Locator): Promise<void> {
    const put = sheet.getByRole('button', { name: 'Put into the draft' });
    const answered = this.page.waitForResponse((response) => response.url().includes('/operations'));
    await put.click();
    await answered;
    await expect(put).toBeDisabled();
  }

  /** Rolls out in spite of errors. @returns how many devices the button said that it tells. */
  async rollOut(label: RegExp): Promise<number> {
    const start = this.page.getByRole('button', { name: label });
    await expect(start).toBeVisible();
    const despite = this.page.getByRole('checkbox', { name: /^Roll out in spite of/ });
    const isOpen = async (): Promise<boolean> => (await start.isVisible()) && (await start.isEnabled());
    let devices = 0;
    // What it is asked about may be looked at once more meanwhile, and be gone; a press that falls into that moment is none.
    await expect(async () => {
      if (await despite.isVisible()) await despite.check({ timeout: 2000 });
      await expect(start).toBeEnabled({ timeout: 2000 });
      devices = Number(/\d+/.exec((await start.textContent())!)?.[0] ?? 0);
      await start.click({ timeout: 2000 });
      await expect.poll(isOpen, { timeout: 2000 }).toBe(false);
    }).toPass({ timeout: MOST_WAITED });
    return devices;
  }

  /** The same, and waits until it is live: a revision before it is live already. */
  async rollOutAll(label: RegExp): Promise<void> {
    const note = this.page.getByText(/^(Revision \d+ is live|Nothing has been rolled out yet)$/).first();
    const now = /\d+/.exec((await note.textContent())!)?.[0] ?? 0;
    const live = this.page.getByText(`Revision ${Number(now) + 1} is live`);
    const putBack = this.page.getByRole('alert').filter({ hasText: 'and put back.' });
    const refused = this.page.locator('il-rollout-start').getByRole('alert');
    // What somebody saw may be another by the time they press: then they are told so, and press once more.
    for (let tries = 0; tries < 3; tries++) {
      await this.rollOut(label);
      await expect(live.or(putBack).or(refused).first()).toBeVisible();
      if (!(await refused.isVisible())) break;
      console.log('refused:', await refused.textContent());
    }
    await expect(live.or(putBack)).toBeVisible();
    expect(await putBack.allTextContents()).toEqual([]);
  }

  press = (name: string | RegExp): Promise<void> => this.page.getByRole('button', { name }).first().click();
  /** Chooses one of what a field offers. */
  async choose(label: string, option: string): Promise<void> {
    await this.page.getByRole('combobox', { name: label, exact: true }).click();
    await this.page.getByRole('option', { name: option, exact: true }).click();
  }

  sheet = (heading: string) => this.page.getByRole('region', { name: heading, exact: true });
  get consequences() {
    return this.page.getByRole('region', { name: 'Consequences' });
  }

  /** Runs an accessibility check (WCAG 2.2 A and AA) on what is shown; in the dark theme on its colours, all that differs. */
  async expectAccessible(): Promise<void> {
    await this.page.evaluate(axeSource);
    // The library shows a message before it says it aloud, a moment later: until then its button is hidden from readers.
    await expect(this.page.locator('mat-snack-bar-container [aria-hidden="true"] button')).toHaveCount(0);
    expect(await this.violations({ runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'] })).toEqual([]);
    await this.page.emulateMedia({ colorScheme: 'dark' });
    expect(await this.violations({ runOnly: ['color-contrast', 'link-in-text-block'] })).toEqual([]);
    await this.page.emulateMedia({ colorScheme: 'light' });
  }

  private violations(options: object): Promise<string[]> {
    return this.page.evaluate(async (how) => {
      const axe = (
        window as unknown as {
          axe: {
            run(
              root: Document,
              options: object,
            ): Promise<{ violations: { id: string; nodes: { html: string; failureSummary: string }[] }[] }>;
          };
        }
      ).axe;
      const result = await axe.run(document, how);
      return result.violations.flatMap(({ id, nodes }) =>
        nodes.map((node) => `${id}: ${node.html.slice(0, 160)} ${node.failureSummary}`),
      );
    }, options);
  }
}

/** Lines of a page that are printed when a test fails on it. */
const LINES_TOLD = 160;

/** What a page says: a test that failed on another machine leaves nothing else behind. */
async function asTold(page: Page): Promise<string> {
  const lines = (await page.locator('body').ariaSnapshot().catch(String)).split('\n');
  return ['The page when it failed:', ...lines.slice(0, LINES_TOLD)].join('\n');
}

/**
 * An estate for each worker, put back as it was before each file that it runs, and a page that is as new for each test: what a
 * browser keeps of the application's programs is kept, as for anybody who comes back.
 */
export const test = base.extend<
  { desk: Desk; putBack: void },
  { estate: Estate; files: Set<string>; kept: { context: BrowserContext; page: Page } }
>({
  kept: [
    async ({ browser }, use) => {
      const context = await browser.newContext({ reducedMotion: 'reduce' });
      await use({ context, page: await context.newPage() });
      await context.close();
    },
    { scope: 'worker' },
  ],
  page: async ({ estate, kept: { context, page }, viewport, permissions }, use, info) => {
    // Of the same place, so that the browser keeps what it has made of the programs; nothing runs there.
    await page.goto(`${estate.address}/healthz`);
    await page.evaluate(() => localStorage.clear());
    await page.setViewportSize(viewport!);
    await page.emulateMedia({ media: null, colorScheme: null, reducedMotion: 'reduce' });
    await context.grantPermissions(permissions ?? []);
    await use(page);
    if (info.status !== info.expectedStatus) console.log(await asTold(page));
    page.removeAllListeners();
    await context.clearCookies();
    await context.clearPermissions();
  },
  // eslint-disable-next-line no-empty-pattern -- it needs no other one, which is said so
  files: [async ({}, use) => use(new Set()), { scope: 'worker' }],
  estate: [
    // eslint-disable-next-line no-empty-pattern
    async ({}, use) => {
      const estate = await Estate.start();
      await estate.signIn();
      await estate.allInStep();
      await use(estate);
      await estate.end();
    },
    { scope: 'worker', timeout: 180_000 },
  ],
  putBack: [
    async ({ estate, files }, use, { file }) => {
      if (files.size > 0 && !files.has(file)) await estate.putBack();
      files.add(file);
      await use();
    },
    { auto: true, timeout: 180_000 },
  ],
  desk: async ({ page, estate }, use) => {
    const errors: string[] = [];
    page.on('pageerror', (error) => errors.push(error.message));
    await use(new Desk(page, estate));
    expect(errors).toEqual([]);
  },
});
export { expect };

/** Tests of this file go on from each other, on one estate: when one fails, all of them are tried once more on a new one. */
export const inOrder = (): void => test.describe.configure({ mode: 'serial' });
