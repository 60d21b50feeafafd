import { readFileSync } from 'node:fs'
import { expect, test } from '@playwright/test'
import { newStep } from '@/macros/step'
import { addStep, beadNames, layVase, openEmptyBench, setNumber, settled } from './bench'
import { keepMacro } from './loops'

/* Coming back to what there is: an old revision recorded on, and a picture looked at closely. */

test('an old revision is recorded on: a bead in the middle, another recorded anew, kept as the newest', async ({ page }) => {
  await openEmptyBench(page)
  const first = [newStep('exposure', 'e', { exposureEv: 0.2 }), newStep('unsharp-mask', 'u')]
  const macro = await keepMacro(page, 'To go on with', first)
  const spoilt = [newStep('exposure', 'e', { exposureEv: 3 })]
  expect((await page.request.post(`/api/macros/${macro.id}`, { data: { steps: spoilt } })).ok()).toBe(true)

  await page.goto(`/macros/${macro.id}`)
  await page.getByRole('button', { name: /^r1 / }).click()
  await page.getByRole('button', { name: 'Open r1 on the bench' }).click()
  await expect.poll(() => beadNames(page)).toEqual(['Exposure', 'Unsharp mask'])
  await page.getByRole('button', { name: 'Record', exact: true }).click()
  await page.locator('[data-bead]').first().click()
  await setNumber(page, 'Exposure', 0.5)
  await addStep(page, 'Saturation')
  expect(await beadNames(page)).toEqual(['Exposure', 'Saturation', 'Unsharp mask'])
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(page.locator('[data-bead][data-hollow]')).toHaveCount(0)

  await expect(page.getByRole('radio', { name: 'As r3 of To go on with' })).toBeChecked()
  await page.locator('form').getByRole('button', { name: 'Keep', exact: true }).click()
  await expect(page.getByText('Kept as')).toBeVisible()
  const revisions = await (await page.request.get(`/api/macros/${macro.id}/revisions`)).json()
  const operations = revisions.map(({ steps }: { steps: { operation: string }[] }) => steps.map(({ operation }) => operation))
  expect(operations).toEqual([['exposure', 'saturation', 'unsharp-mask'], ['exposure'], ['exposure', 'unsharp-mask']])
  expect(revisions[0].steps[0].settings.exposureEv).toBe(0.5)
  expect(revisions[2].steps[0].settings.exposureEv).toBe(0.2)
})

test('a picture is pinched to 100 % and 200 %, pulled along, and fitted again; a strip of two settings is a grid', async ({ page }) => {
  await layVase(page)
  await openEmptyBench(page)
  await addStep(page, 'Unsharp mask')
  await settled(page)
  const canvas = page.getByRole('img', { name: 'The picture after the steps' })
  const pixels = (): Promise<string> => canvas.evaluate((element) => (element as HTMLCanvasElement).toDataURL())
  const zoom = (name: string) => page.getByRole('radiogroup', { name: 'Zoom' }).getByRole('radio', { name, exact: true })
  const box = await page.getByTestId('picture').boundingBox()
  if (!box) throw new Error('There is no picture')
  const middle = [box.x + box.width / 2, box.y + box.height / 2] as const
  await page.mouse.move(...middle)
  await page.keyboard.down('Control')
  for (const name of ['100 %', '200 %']) {
    await page.mouse.wheel(0, -100)
    await expect(zoom(name)).toBeChecked()
  }
  await page.mouse.wheel(0, 100)
  await page.keyboard.up('Control')
  await expect(zoom('100 %')).toBeChecked()
  await settled(page)
  const before = await pixels()
  await page.mouse.down()
  await page.mouse.move(middle[0] - 120, middle[1] - 80, { steps: 4 })
  await page.mouse.up()
  await settled(page)
  expect(await pixels()).not.toBe(before)
  await page.keyboard.press('f')
  await expect(zoom('Fit')).toBeChecked()

  await settled(page)
  await page.keyboard.press('t')
  const strip = page.getByRole('dialog', { name: 'Test strip' })
  await strip.getByRole('combobox', { name: 'Second setting' }).click()
  await page.locator('.ant-select-dropdown:visible .ant-select-item-option', { hasText: 'Radius' }).click()
  const cells = strip.getByRole('button', { name: /^Take / })
  await expect(cells).toHaveCount(5 * 3)
  await expect(strip.locator('canvas[data-drawn]')).toHaveCount(5 * 3)
  await cells.last().click()
  await expect(strip).toBeHidden()
  await expect(page.locator('[data-bead]')).not.toContainText('radius 0.8')
})

test('files are dropped onto the bench: a picture lies there and in the tray, what is none is told', async ({ page }) => {
  await openEmptyBench(page)
  const drop = async (name: string, bytes: Buffer): Promise<void> => {
    const dataTransfer = await page.evaluateHandle(
      ([name, encoded]) => {
        const transfer = new DataTransfer()
        transfer.items.add(new File([Uint8Array.from(atob(encoded), (letter) => letter.charCodeAt(0))], name))
        return transfer
      },
      [name, bytes.toString('base64')] as const,
    )
    await page.getByRole('region', { name: 'Stage' }).dispatchEvent('drop', { dataTransfer, bubbles: true })
  }
  await drop('from-elsewhere.jpg', readFileSync('demo/odd-files/SHELF.JPG'))
  await expect(page.getByRole('button', { name: /^Lay .*from-elsewhere\.jpg.* on the bench$/ })).toHaveAttribute('aria-pressed', 'true')
  await settled(page)
  await drop('no-picture.jpg', Buffer.from('not yet'))
  await expect(page.getByText(/no-picture\.jpg/)).toBeVisible()
})
