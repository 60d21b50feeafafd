import { type ChildProcess, spawn } from 'node:child_process'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, test } from '@playwright/test'

/* Listening beyond this machine: only with a passphrase. */

const port = 4191
const address = `http://127.0.0.1:${port}`
const passphrase = 'a kiln is a slow camera'
let web: ChildProcess | undefined
test.afterEach(() => void web?.kill('SIGKILL'))

function listen(given: string | undefined): ChildProcess {
  const { COPPER_LOOP_PASSPHRASE: _, ...rest } = process.env
  web = spawn(process.execPath, ['.build/web.mjs', String(port)], {
    env: {
      ...rest,
      NODE_ENV: 'production',
      COPPER_LOOP_HOST: '0.0.0.0',
      COPPER_LOOP_DATA: mkdtempSync(join(tmpdir(), 'copper-loop-door-')),
      ...(given ? { COPPER_LOOP_PASSPHRASE: given } : {}),
    },
    stdio: ['ignore', 'ignore', 'pipe'],
  })
  return web
}

test('without a passphrase, or with a short one, nothing is listened to', async () => {
  for (const given of [undefined, 'short']) {
    const child = listen(given)
    const said: string[] = []
    child.stderr?.on('data', (text) => said.push(String(text)))
    expect(await new Promise((resolve) => child.once('exit', resolve))).toBe(78)
    expect(said.join('')).toContain('Set COPPER_LOOP_PASSPHRASE to at least 12 characters')
  }
})

test('with one, every page and route asks for it; it opens them all', async ({ page, request }) => {
  listen(passphrase)
  await expect
    .poll(
      () =>
        request.get(`${address}/api/status`).then(
          (answer) => answer.status(),
          () => 0,
        ),
      { timeout: 30_000 },
    )
    .toBe(401)
  for (const path of ['/api/loops', '/api/runs', '/api/folders', '/api/pictures/thumbnail?path=/etc/passwd&edge=160', '/api/events'])
    expect((await request.get(address + path)).status()).toBe(401)
  expect((await request.post(`${address}/api/settings/backup`)).status()).toBe(401)
  expect(
    (await request.post(`${address}/api/session`, { data: { passphrase }, headers: { Origin: 'http://evil.example' } })).status(),
  ).toBe(403)

  await page.goto(`${address}/loops`)
  await expect(page).toHaveURL(`${address}/sign-in`)
  await page.getByLabel('Passphrase').fill('not this one at all')
  await page.getByRole('button', { name: 'Sign in' }).click()
  await expect(page.getByText('That is not the passphrase.')).toBeVisible()
  await page.getByLabel('Passphrase').fill(passphrase)
  await page.getByRole('button', { name: 'Sign in' }).click()
  await expect(page).toHaveURL(`${address}/bench`)
  const [cookie] = await page.context().cookies()
  expect(cookie).toMatchObject({ httpOnly: true, sameSite: 'Strict' })
  await page.goto(`${address}/loops`)
  await expect(page.getByText('No loops yet')).toBeVisible()

  await page.goto(`${address}/settings`)
  await page.getByRole('button', { name: 'Sign out' }).click()
  await expect(page).toHaveURL(`${address}/sign-in`)
  expect((await page.request.get(`${address}/api/loops`)).status()).toBe(401)
})
