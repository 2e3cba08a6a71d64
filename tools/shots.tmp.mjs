import { chromium } from '@playwright/test';
import { mkdirSync } from 'node:fs';
mkdirSync('/tmp/shots', { recursive: true });
const url = process.env.SHOT_URL ?? 'http://127.0.0.1:18080';
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
async function view(page, name) { await page.goto(url); await page.getByRole('navigation', { name: 'Estate' }).getByRole('link', { name, exact: true }).click(); await page.getByRole('heading', { name, exact: true }).waitFor(); }
async function choose(page, label, option) {
  await page.getByRole('combobox', { name: label }).click();
  await page.getByRole('option', { name: option }).click();
  await page.getByRole('listbox').waitFor({ state: 'hidden' });
}
const shoot = async (page, name) => { await page.waitForTimeout(800); await page.screenshot({ path: `/tmp/shots/${name}.png` }); console.log('shot', name); };
try { await (await import(process.argv[2])).default({ open, go, choose, shoot, view, url, browser }); } finally { await browser.close(); }
