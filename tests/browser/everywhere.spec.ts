import { join } from 'node:path'
import AxeBuilder from '@axe-core/playwright'
import { expect, type Page, test } from '@playwright/test'
import { defaultDelivery } from '@/jobs/delivery'
import { gatherFor } from '@/jobs/gather'
import { intakeOf } from '@/jobs/loop'
import { addStep, beadNames, layVase, openEmptyBench, setNumber, settled } from './bench'
import { root, saveLoop } from './loops'
import { soak } from './soak'

const places = ['/bench', '/macros', '/loops', '/loops/demo-shop', '/loops/demo-shop/proof', '/runs', '/settings', '/help'] as const

/** What axe finds on the page as it is now. */
async function lookAt(page: Page, what: string): Promise<void> {
  await page.waitForTimeout(500)
  const { violations } = await new AxeBuilder({ page })
    // A page without frames of other hosts is read as a whole; otherwise every look opens a page of its own to add up.
    .setLegacyMode()
    .withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'])
    .analyze()
  expect(
    violations.map(({ id, nodes }) => `${id}: ${nodes.map((node) => node.html.slice(0, 160)).join(' | ')}`),
    what,
  ).toEqual([])
}

/** In the dark only the colours are others. */
const inTheDark = (scheme: 'light' | 'dark') => (scheme === 'dark' ? soak : {})

for (const scheme of ['light', 'dark'] as const)
  for (const place of places)
    test(
      `${place} in ${scheme}: no violations of WCAG 2.2 AA that axe finds, and nothing wrong in the console`,
      inTheDark(scheme),
      async ({ page }) => {
        const complaints: string[] = []
        page.on('console', (message) => message.type() === 'error' && complaints.push(message.text()))
        page.on('pageerror', (error) => complaints.push(error.message))
        await page.emulateMedia({ colorScheme: scheme, reducedMotion: 'reduce' })
        await layVase(page)
        await page.goto(place)
        await expect(page.getByRole('navigation', { name: 'Places' })).toBeVisible()
        if (place === '/bench') await settled(page)
        await lookAt(page, place)
        expect(complaints).toEqual([])
      },
    )

for (const scheme of ['light', 'dark'] as const)
  test(
    `what is picked, tried, delivered by itself and gathered, in ${scheme}: no violations that axe finds`,
    inTheDark(scheme),
    async ({ page }) => {
      await page.emulateMedia({ colorScheme: scheme, reducedMotion: 'reduce' })
      await openEmptyBench(page)
      await page.getByRole('button', { name: 'Try macros', exact: true }).click()
      const shelf = page.getByRole('dialog', { name: 'Try macros on this picture' })
      await expect(shelf.locator('canvas').first()).toBeVisible()
      await lookAt(page, 'macros that are tried')
      await page.keyboard.press('Escape')
      await expect(shelf).toBeHidden()
      await page.getByRole('button', { name: 'Deliver this picture' }).click()
      await expect(page.getByRole('dialog').getByRole('button', { name: 'Deliver', exact: true })).toBeFocused()
      await lookAt(page, 'one picture to be delivered')
      await page.keyboard.press('Escape')
      await page.getByRole('button', { name: 'Take the tray into a loop' }).click()
      await expect(page.getByRole('textbox', { name: 'Its name' })).toBeVisible()
      await lookAt(page, 'pictures for a loop')

      await saveLoop(page, {
        id: 'seen',
        name: 'Seen',
        intake: intakeOf(join(root, 'pictures', 'tiles')),
        deliveries: [{ ...defaultDelivery('d', join(root, 'delivered', 'seen')), gather: gatherFor('sheet') }],
      })
      await page.goto('/loops/seen')
      await expect(page.getByRole('img', { name: 'Page 1' })).toBeVisible()
      await lookAt(page, 'pages that are set up')
      await page.getByRole('radiogroup', { name: 'Which of the pictures' }).getByText('Only these …').click()
      await expect(page.getByRole('dialog', { name: 'Which pictures' }).getByRole('checkbox').first()).toBeVisible()
      await lookAt(page, 'pictures to be picked')
    },
  )

for (const scheme of ['light', 'dark'] as const)
  test(`what comes up over a page, in ${scheme}: no violations that axe finds`, inTheDark(scheme), async ({ page }) => {
    await page.emulateMedia({ colorScheme: scheme, reducedMotion: 'reduce' })
    await openEmptyBench(page)
    const look = (what: string): Promise<void> => lookAt(page, what)
    await page.getByRole('button', { name: 'Run over a folder' }).click()
    await expect(page.getByRole('button', { name: /^Run \d+ pictures$/ })).toBeVisible()
    await look('run over a folder')
    await page.getByRole('button', { name: 'Choose: Which pictures' }).click()
    await expect(page.getByText('TLK27_0415.jpg').last()).toBeVisible()
    await look('the folder browser')
    // The focus comes back to the outer dialog a moment after the inner one has gone.
    for (const name of ['Which pictures', 'Run over a folder'])
      await expect(async () => {
        await page.keyboard.press('Escape')
        await expect(page.getByRole('dialog', { name })).toBeHidden({ timeout: 2000 })
      }).toPass()
    await page.getByRole('button', { name: 'Help' }).click()
    await look('the jobs')
    await page.getByRole('tab', { name: 'Shortcuts' }).click()
    await look('the shortcuts')
    await page.keyboard.press('Escape')
    await expect(page.getByRole('dialog', { name: 'Help' })).toBeHidden()

    await page.getByRole('button', { name: 'Add a step' }).click()
    await expect(page.locator('canvas[data-sample]').first()).toBeVisible()
    await look('the operations')
    await page.keyboard.press('Escape')
    await page.getByRole('button', { name: 'Record', exact: true }).click()
    await addStep(page, 'Exposure')
    await page.getByRole('combobox', { name: 'Only for some pictures' }).click()
    await page.getByTitle('Name', { exact: true }).last().dispatchEvent('click')
    await look('a step with a condition')
    await addStep(page, 'Stamp image')
    await page.getByRole('button', { name: 'Draw a mark by hand' }).click()
    await expect(page.getByLabel('Sheet to draw on')).toBeVisible()
    await look('the sheet to draw on')
    await page.getByRole('button', { name: 'Close' }).click()
    await expect(page.getByLabel('Sheet to draw on')).toBeHidden()
    await page.getByRole('button', { name: 'Stop', exact: true }).click()
    await expect(page.getByText('On the shelf as a draft. What is it called?')).toBeVisible()
    await look('a draft that is named')
    await page.keyboard.press('Escape')

    await page.goto('/settings')
    await page.getByRole('button', { name: 'Choose a folder to add' }).click()
    await expect(page.getByText('Places on this machine')).toBeVisible()
    await look('folders of the machine')
  })

test('nothing is cut off at 1024 × 700', async ({ page }) => {
  await page.setViewportSize({ width: 1024, height: 700 })
  for (const place of places) {
    await page.goto(place)
    await page.waitForTimeout(400)
    const overflow = await page.evaluate(() => [
      document.documentElement.scrollWidth - innerWidth,
      document.documentElement.scrollHeight - innerHeight,
    ])
    expect(overflow).toEqual([0, 0])
  }
})

test('a menu opens beside what was clicked and stays there, with reduced motion too', async ({ page }) => {
  await openEmptyBench(page)
  await addStep(page, 'Exposure')
  for (const reducedMotion of ['reduce', 'no-preference'] as const) {
    await page.emulateMedia({ reducedMotion })
    const button = page.getByRole('button', { name: 'More for this step' })
    await button.click()
    const item = page.getByRole('menuitem', { name: 'Test strip' })
    await expect(item).toBeVisible()
    const clicked = (await button.boundingBox()) ?? { x: 0, y: 0 }
    for (let look = 0; look < 12; look++) {
      const { x, y } = (await item.boundingBox()) ?? { x: -1, y: -1 }
      expect(Math.hypot(x - clicked.x, y - clicked.y)).toBeLessThan(120)
      await page.waitForTimeout(30)
    }
    await page.keyboard.press('Escape')
    await expect(item).toBeHidden()
  }
})

for (const reducedMotion of ['reduce', 'no-preference'] as const)
  test(`what comes up has its field in hand, and can be typed into at once: motion ${reducedMotion}`, async ({ page }) => {
    await page.emulateMedia({ reducedMotion })
    await openEmptyBench(page)
    await page.getByRole('button', { name: 'Add a step' }).click()
    await expect(page.getByLabel('Find an operation')).toBeFocused()
    await page.keyboard.type('exposure')
    await page.keyboard.press('Enter')
    await expect.poll(() => beadNames(page)).toEqual(['Exposure'])
    for (const [button, field] of [
      ['Find and do', 'What to find'],
      ['Keep as macro', 'Name of the macro'],
      ['Try macros', 'Find a macro'],
      ['Take the tray into a loop', 'Which loop'],
    ] as const) {
      await page.getByRole('button', { name: button, exact: true }).click()
      await expect(page.getByLabel(field)).toBeFocused()
      await page.keyboard.press('Escape')
      await expect(page.getByLabel(field)).toBeHidden()
    }
    await page.getByRole('button', { name: 'Deliver this picture' }).click()
    await expect(page.getByRole('dialog').getByRole('button', { name: 'Deliver', exact: true })).toBeFocused()
  })

test('a page that breaks says so in our words, opens again, and the work is kept', async ({ page }) => {
  await openEmptyBench(page)
  await addStep(page, 'Exposure')
  await setNumber(page, 'Exposure', 0.4)
  await settled(page)
  // An answer that no page can draw.
  await page.route('**/api/loops', (route) => route.fulfill({ json: [null] }))
  await page.getByRole('link', { name: 'Loops' }).click()
  await expect(page.getByRole('alert').getByRole('heading', { name: 'This page broke' })).toBeVisible()
  await expect(page.getByText('Your work is kept')).toBeVisible()
  await page.unroute('**/api/loops')
  await page.getByRole('button', { name: 'Open it again' }).click()
  await expect(page.getByRole('button', { name: 'New loop' })).toBeVisible()
  await page.getByRole('link', { name: 'Bench' }).click()
  await settled(page)
  expect(await beadNames(page)).toEqual(['Exposure'])
  await page.locator('[data-bead]').click()
  await expect(page.getByRole('spinbutton', { name: 'Exposure', exact: true })).toHaveValue(/0\.40?/)
})

test('a macro goes out as a file and comes back; a broken one is refused with the place', async ({ page }) => {
  await page.goto('/macros')
  const downloading = page.waitForEvent('download')
  await page.getByRole('button', { name: 'More for Shop listing' }).click()
  await page.getByRole('menuitem', { name: 'Save as a macro file' }).click()
  const download = await downloading
  expect(download.suggestedFilename()).toBe('Shop listing.macro.json')
  const text = (await (await import('node:fs/promises')).readFile(await download.path())).toString()
  const upload = page.locator('input[type=file]')
  await upload.setInputFiles({
    name: 'back.macro.json',
    mimeType: 'application/json',
    buffer: Buffer.from(text.replace('"Shop listing"', '"Came back"')),
  })
  await expect(page.getByRole('heading', { name: 'Came back' })).toBeVisible()
  await upload.setInputFiles({
    name: 'broken.macro.json',
    mimeType: 'application/json',
    buffer: Buffer.from(text.replace('"radiusPx": 0.7', '"radiusPx": 700')),
  })
  await expect(
    page.getByText(/broken.macro.json: The macro can't be used: steps\[5\]\.settings\.radiusPx must be at most 50/),
  ).toBeVisible()
})

test('only this machine is answered: foreign hosts and cross-site posts are refused', async ({ request }) => {
  expect((await request.get('/api/status', { headers: { Host: 'evil.example' } })).status()).toBe(403)
  expect((await request.post('/api/loops/demo-shop/run', { headers: { Origin: 'http://evil.example' } })).status()).toBe(403)
  expect((await request.post('/api/bench/laid', { data: 'x', headers: { 'Sec-Fetch-Site': 'cross-site' } })).status()).toBe(403)
  for (const path of ['/etc/passwd', '../../etc/passwd', '/proc/self/environ']) {
    const answer = await request.get(`/api/pictures/pixels?path=${encodeURIComponent(path)}`)
    expect([answer.status(), (await answer.json()).code]).toEqual([403, 'outsideRoots'])
  }
})
