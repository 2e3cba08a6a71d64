import { mkdirSync } from 'node:fs';
import { chromium } from '@playwright/test';
const script = (await import(process.argv[2])).default;
mkdirSync('/tmp/shots', { recursive: true });
const url = process.env.URL ?? 'http://127.0.0.1:18080';
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--disable-dev-shm-usage'] });
async function open(colorScheme = 'light', viewport = { width: 1280, height: 800 }) {
  const page = await browser.newPage({ viewport, colorScheme });
  await page.goto(url);
  await page.getByLabel('Mail address').fill('ida@skerrow.example');
  await page.getByLabel('Password').fill('lattice-demo-26');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await page.getByRole('heading', { name: 'Skerrow Ferries' }).waitFor();
  return page;
}
async function go(page, site, stage) {
  await page.goto(url);
  await page.getByRole('link', { name: site, exact: true }).click();
  await page.getByRole('navigation', { name: 'Stages' }).getByRole('link', { name: stage }).click();
  await page.getByRole('heading', { name: stage, exact: true }).waitFor();
}
async function choose(page, label, option) {
  await page.getByRole('combobox', { name: label }).click();
  await page.getByRole('option', { name: option }).click();
  await page.getByRole('listbox').waitFor({ state: 'hidden' });
}
const shoot = async (page, name) => { await page.waitForTimeout(400); await page.screenshot({ path: `/tmp/shots/${name}.png` }); };
const view = (page, name) => page.getByRole('group', { name: 'What is shown' }).getByRole('button', { name }).click();
try { await script({ open, go, choose, shoot, view, url, browser }); } finally { await browser.close(); }
