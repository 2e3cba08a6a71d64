// What is measured in the browser has a controller of its own, and somebody who is signed in.
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { startController, stopChild } from '../tools/stack.mjs';
import { signIn } from './lines.mjs';

/** Starts the distribution's Chromium. */
export const openBrowser = () =>
  chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--disable-dev-shm-usage'] });

/** Does something with a controller that begins with an estate. @param work is given its address. */
export async function withController({ databaseUrl, folder, estate }, work) {
  const { child, url } = await startController({
    DATABASE_URL: databaseUrl,
    LATTICE_PORT: '0',
    LATTICE_SECRET_KEY: join(folder, 'secret.key'),
    LATTICE_SEED: estate,
  });
  try {
    await work(url);
  } finally {
    await stopChild(child);
  }
}

/** Does something with a browser as well. @param work is given the address, and what opens pages of somebody who is signed in. */
export const inBrowser = (setting, work) =>
  withController(setting, async (url) => {
    const browser = await openBrowser();
    try {
      const cookie = await signIn(url);
      const [name, value] = cookie.split('=');
      /** A page with nothing cached. */
      const open = async () => {
        const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
        await context.addCookies([{ name, value, url }]);
        return context.newPage();
      };
      await work({ url, cookie, open });
    } finally {
      await browser.close();
    }
  });
