import { networkInterfaces } from 'node:os';
import { expect, test, type Page } from '@playwright/test';
import { serveFresh } from '../scripts/lib/serve.mjs';
import { untilSaved } from './stage.ts';

const PASSWORD = 'one that is long enough';

/** Joins by an address that lets one in. */
async function join(page: Page, address: string, name: string) {
  await page.addInitScript(() => localStorage.setItem('plinket-tour', 'asked'));
  await page.goto(address);
  await page.getByLabel('Name').fill(name);
  await page.getByLabel(/^Password/).fill(PASSWORD);
  await page.getByRole('button', { name: 'Begin' }).click();
  await expect(page.getByTestId('me')).toHaveText(name);
}

test('people come by invitation, are seen in what they do, and leave without losing anything', async ({ browser }) => {
  // a server of its own, reached over plain HTTP as from another machine where this one has an address: browsers give such pages less
  const address = Object.values(networkInterfaces())
    .flat()
    .find((i) => i?.family === 'IPv4' && !i.internal)?.address;
  const server = await serveFresh('people', address ? { PLINKET_HOST: '0.0.0.0' } : { PLINKET_PEOPLE: 'yes' });
  const reached = (url: string) => (address ? url.replace('localhost', address) : url);
  const [ane, bo] = [await browser.newPage(), await browser.newPage()];
  try {
    await ane.goto(reached(server.url));
    expect(await ane.evaluate('isSecureContext')).toBe(address === undefined);
    await expect(ane.getByRole('heading', { name: 'Sign in' })).toBeVisible();
    await expect.poll(() => server.said()).toContain('/join#');
    await join(ane, reached(/http\S+\/join#\S+/.exec(server.said())![0]), 'Ane');
    await ane.getByTestId('me').click();
    await ane.getByRole('link', { name: 'People and what was done' }).click();
    await ane.getByRole('button', { name: 'lights', exact: true }).click();
    const invitation = await ane.getByTestId('invitation').innerText();
    await ane.getByRole('button', { name: 'Done' }).click();
    await join(bo, invitation, 'Bo');
    // by its name: which link is the last one depends on what of the Call sheet has come
    await bo.getByRole('link', { name: 'Open The keeper, first look' }).click();
    const brief = bo.getByTestId('brief');
    await brief.fill('a lantern, and nothing else');
    await brief.press('Enter');
    await untilSaved(bo);
    await ane.reload();
    await expect(ane.getByTestId('deed').first()).toContainText('Bo');
    // who only looks changes nothing, and is told so
    await ane.getByLabel('Role of Bo').selectOption('look');
    await expect(ane.getByLabel('Role of Bo')).toHaveValue('look');
    await bo.reload();
    await expect(bo.getByTestId('looks')).toBeVisible();
    await brief.fill('not for Bo to say');
    await brief.press('Enter');
    await expect(bo.getByText('You may look, not change.')).toBeVisible();
    await expect(brief).toHaveValue('a lantern, and nothing else');
    await ane.getByLabel('Role of Bo').selectOption('light');
    await expect(ane.getByLabel('Role of Bo')).toHaveValue('light');
    // signed out in the middle of the work: it waits behind the card, and is saved by who signs in again
    await bo.context().clearCookies();
    await brief.fill('said while signed out');
    await brief.press('Enter');
    await expect(bo.getByRole('heading', { name: 'Sign in again' })).toBeVisible();
    await bo.getByLabel('Name', { exact: true }).fill('Bo');
    await bo.getByLabel('Password').fill('wrong');
    await bo.getByRole('button', { name: 'Sign in' }).click();
    await expect(bo.getByRole('alert')).toHaveText('Name and password do not fit.');
    await bo.getByLabel('Password').fill(PASSWORD);
    await bo.getByRole('button', { name: 'Sign in' }).click();
    await untilSaved(bo);
    await expect(brief).toHaveValue('said while signed out');
    await bo.getByRole('button', { name: 'History', exact: true }).click();
    await expect(bo.getByText(/^Bo · /).first()).toBeVisible();
  } finally {
    // pages that listen keep a server from ending, and with it the reason why a test failed from being told
    await Promise.all([ane.context().close(), bo.context().close()]);
    await server.stop();
  }
});
