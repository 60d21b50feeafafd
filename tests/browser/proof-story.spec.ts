import { cpSync, mkdirSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { expect, type Locator, type Page, test } from '@playwright/test'
import jpegJs from 'jpeg-js'
import { srgbTransfer } from '@/colour/transfer'
import { sha256 } from '@/files/placing'
import { defaultDelivery } from '@/jobs/delivery'
import { intakeOf } from '@/jobs/loop'
import { newStep, type Step } from '@/macros/step'
import { keepMacro, root, saveLoop } from './loops'
import { soak } from './soak'

/*
 * A whole set of the demo from the proof before its first run to a run over the grown folder, as two people do it: one at the keyboard
 * alone, one with the pointer. What was delivered is read by a decoder that the application does not use.
 */

const demoSet = 'demo/pictures/vessels'
const names = readdirSync(demoSet)
  .filter((name) => name.endsWith('.jpg'))
  .sort()
const framed = 15

interface Story {
  readonly id: string
  readonly delivery: string
  hashes(): ReadonlyMap<string, string>
}

/** The demo's nineteen vessels and a loop that makes squares of 500 pixels of them, with a number before each name. */
async function storyOf(page: Page, id: string, more: readonly Step[] = []): Promise<Story> {
  const [intake, delivery] = [join(root, id), join(root, 'delivered', id)]
  mkdirSync(intake, { recursive: true })
  for (const name of names) cpSync(join(demoSet, name), join(intake, name))
  const macro = await keepMacro(page, `Squares of ${id}`, [
    newStep('crop', 'square', { ratioWidth: 1, ratioHeight: 1, sizePercent: 90 }),
    newStep('resize', 'small', { lengthPx: 500 }),
    ...more,
  ])
  await saveLoop(page, {
    id,
    name: `Set of ${id}`,
    intake: intakeOf(intake),
    macros: [{ macroId: macro.id, revision: null }],
    deliveries: [{ ...defaultDelivery('d', delivery), namePattern: '{n:001}-{name}' }],
  })
  const hashes = () => new Map(readdirSync(delivery).map((name) => [name, sha256(readFileSync(join(delivery, name)))]))
  return { id, delivery, hashes }
}

const decoded = (path: string) => jpegJs.decode(readFileSync(path), { useTArray: true })

/** Mean light of its green channel. */
function lightOf(path: string): number {
  const { data } = decoded(path)
  let sum = 0
  for (let i = 1; i < data.length; i += 4) sum += srgbTransfer.decode((data[i] ?? 0) / 255)
  return (4 * sum) / data.length
}

const deliveredAs = (name: string): string => `${String(names.indexOf(name) + 1).padStart(3, '0')}-${name}`
const otherOf = (before: ReadonlyMap<string, string>, after: ReadonlyMap<string, string>): string[] =>
  [...after.keys()].filter((name) => after.get(name) !== before.get(name)).sort()

const headingOf = (page: Page) => page.getByRole('complementary', { name: 'This picture' }).getByRole('heading')
const ownOf = (page: Page) => page.getByRole('list', { name: 'Of its own' })
/** As somebody does who has come to it with the Tab key. */
async function enter(control: Locator): Promise<void> {
  await expect(control).toBeEnabled()
  await control.press('Enter')
}
const isDone = (page: Page) => expect(page.getByText('Done', { exact: true })).toBeVisible({ timeout: 120_000 })

test('at the keyboard: fifteen frames, a run, what stands out, four delivered anew, and the same again over the grown folder', async ({
  page,
}) => {
  const { id, delivery, hashes } = await storyOf(page, 'story')
  await page.goto(`/loops/${id}`)
  await enter(page.getByRole('button', { name: 'Proof' }))
  await page.locator('canvas').first().waitFor()
  const started = Date.now()
  let keys = 0
  const press = async (key: string): Promise<void> => {
    await page.keyboard.press(key)
    keys++
  }
  for (const name of names.slice(0, framed)) {
    await expect(headingOf(page)).toHaveText(name)
    await press('ArrowUp')
    await press('ArrowLeft')
    await expect(ownOf(page)).toContainText(/frame 2 % further left, 2 % higher/)
    await press('.')
  }
  console.info(`${framed} frames placed in ${((Date.now() - started) / 1000).toFixed(1)} s with ${keys} keys`)
  await expect(page.getByText(`${framed} touched up`)).toBeVisible()

  await page.goto(`/loops/${id}`)
  await enter(page.getByRole('button', { name: 'Run loop' }))
  await isDone(page)
  const first = hashes()
  expect([...first.keys()].sort()).toEqual(names.map(deliveredAs))
  for (const name of first.keys()) expect(decoded(join(delivery, name))).toMatchObject({ width: 500, height: 500 })

  await enter(page.getByRole('link', { name: 'Proof' }))
  await expect(page.getByRole('heading', { name: /^Proof of run \d+ · Set of story$/ })).toBeVisible()
  await expect(page.getByText(/[1-9]\d* stand out/)).toBeVisible()
  // The ones that stand out, one by one: the first two darker by a third of a stop.
  const changed: string[] = []
  for (let i = 0; i < 2; i++) {
    await page.keyboard.press('o')
    await page.keyboard.press('n')
    await page.keyboard.press('n')
    await expect(ownOf(page)).toContainText('0.33 EV darker')
    changed.push((await headingOf(page).textContent()) ?? '')
  }
  expect(new Set(changed).size).toBe(2)
  // Two more get something else, one is set aside.
  const others = names.filter((name) => !changed.includes(name)).slice(-3)
  const goTo = async (name: string): Promise<void> => {
    while ((await headingOf(page).textContent()) !== name) {
      const now = names.indexOf((await headingOf(page).textContent()) ?? '')
      await page.keyboard.press(now < names.indexOf(name) ? '.' : ',')
    }
  }
  const [warmer = '', turned = '', aside = ''] = others
  await goTo(warmer)
  await page.keyboard.press('w')
  await expect(ownOf(page)).toContainText('warmer')
  await goTo(turned)
  await page.keyboard.press('t')
  await expect(ownOf(page)).toContainText('turned by +0.1°')
  await goTo(aside)
  await page.keyboard.press('x')
  await expect(ownOf(page)).toContainText('set aside')
  await enter(page.getByRole('button', { name: 'Deliver the 4 changed' }))
  await expect(page.getByText(/4 originals unchanged/)).toBeVisible({ timeout: 120_000 })
  const light = new Map(changed.map((name) => [name, lightOf(join(delivery, deliveredAs(name)))]))
  const second = hashes()
  expect([...second.keys()].sort()).toEqual([...first.keys()].sort())
  expect(otherOf(first, second)).toEqual([...changed, warmer, turned].map(deliveredAs).sort())

  // A week later there is one picture more. All of it is run again: what each has of its own is still there.
  cpSync(join(demoSet, names[0] ?? ''), join(root, id, 'TLK27_9999.jpg'))
  await page.goto(`/loops/${id}`)
  await expect(page.getByText(`${names.length + 1} pictures`).first()).toBeVisible()
  await enter(page.getByRole('button', { name: 'Run loop' }))
  await isDone(page)
  const third = hashes()
  const fresh = new Set([...third].filter(([name]) => !second.has(name)).map(([, hash]) => hash))
  for (const name of names.filter((other) => other !== aside)) expect(fresh).toContain(second.get(deliveredAs(name)))
  expect([...third.keys()].filter((name) => !second.has(name))).toHaveLength(names.length)

  // Taken back, a picture is what it was before it was made darker.
  await page.goto(`/loops/${id}/proof?at=${encodeURIComponent(join(root, id, changed[0] ?? ''))}`)
  await expect(headingOf(page)).toHaveText(changed[0] ?? '')
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await expect(ownOf(page)).not.toContainText('darker')
  await enter(page.getByRole('button', { name: 'Deliver the changed one' }))
  await isDone(page)
  const last = hashes()
  const [replaced = ''] = otherOf(third, last)
  expect(last.get(replaced)).toBe(first.get(deliveredAs(changed[0] ?? '')))
  // A third of a stop less light is 2^(−1/3) of it, but for what was clipped.
  expect((light.get(changed[0] ?? '') ?? 0) / lightOf(join(delivery, replaced))).toBeCloseTo(2 ** (-1 / 3), 1)
})

test(
  'with the pointer: frame, level and stamp pulled, light on its buttons, one set aside, all of it taken back',
  soak,
  async ({ page }) => {
    const { id, hashes } = await storyOf(page, 'pointed', [newStep('stamp-text', 'mark', { text: '{name}' })])
    await page.goto(`/loops/${id}`)
    await page.getByRole('button', { name: 'Run loop' }).click()
    await isDone(page)
    const first = hashes()
    await page.getByRole('link', { name: 'Proof' }).click()
    await expect(headingOf(page)).toHaveText(names[0] ?? '')
    const strip = page.getByRole('list', { name: 'The set' })
    const sheet = page.locator('[class*=sheet]')
    await sheet.locator('img').waitFor()
    const pull = async (grip: { x: number; y: number }, by: readonly [number, number]): Promise<void> => {
      await page.mouse.move(grip.x, grip.y)
      await page.mouse.down()
      await page.mouse.move(grip.x + by[0], grip.y + by[1], { steps: 8 })
      await page.mouse.up()
    }
    const middle = async (): Promise<{ x: number; y: number }> => {
      const box = await sheet.boundingBox()
      if (!box) throw new Error('There is no picture')
      return { x: box.x + box.width / 2, y: box.y + box.height / 2 }
    }
    // It can be pulled as soon as it is known where its frame stands.
    await expect(async () => {
      await pull(await middle(), [40, 0])
      await expect(ownOf(page)).toContainText(/further left/, { timeout: 1000 })
    }).toPass()

    await strip.getByRole('button', { name: new RegExp(`^${names[1]}`) }).click()
    await page.getByRole('button', { name: 'Darker' }).click()
    await page.getByRole('button', { name: 'Darker' }).click()
    await expect(ownOf(page)).toContainText('0.33 EV darker')

    await strip.getByRole('button', { name: new RegExp(`^${names[2]}`) }).click()
    await sheet.locator('img, canvas').first().waitFor()
    const grip = await page.getByTestId('turn-grip').boundingBox()
    if (!grip) throw new Error('There is nothing to turn by')
    await pull({ x: grip.x + 15, y: grip.y + 15 }, [12, 0])
    await expect(ownOf(page)).toContainText(/turned by \+\d/)
    const stamp = await page.getByTestId('stamp-grip').boundingBox()
    if (!stamp) throw new Error('There is no stamp to pull')
    await pull({ x: stamp.x + stamp.width / 2, y: stamp.y + stamp.height / 2 }, [-900, 0])
    await expect(ownOf(page)).toContainText('stamp bottom left')
    await page.getByRole('button', { name: 'Stamp at the upper left' }).click()
    await expect(ownOf(page)).toContainText('stamp top left')
    await page.getByRole('button', { name: '100 %' }).click()
    await expect(page.getByTestId('true-pixels')).toBeVisible()
    // The whole of a small delivery: its own pixels, whatever room there is.
    expect(await page.getByTestId('true-pixels').evaluate((canvas) => (canvas as HTMLCanvasElement).width)).toBe(500)
    await page.getByRole('button', { name: 'All of it' }).click()

    await strip.getByRole('button', { name: new RegExp(`^${names[3]}`) }).click()
    await page.getByRole('button', { name: 'Set aside' }).click()
    await page.getByRole('button', { name: 'Deliver the 3 changed' }).click()
    await expect(page.getByText(/3 originals unchanged/)).toBeVisible({ timeout: 120_000 })
    const second = hashes()
    expect(otherOf(first, second)).toEqual(names.slice(0, 3).map(deliveredAs))

    // The proof of this run shows its three among their neighbours.
    await page.getByRole('link', { name: 'Proof' }).click()
    await page.getByRole('button', { name: 'Only the 3 of this run' }).click()
    await expect(page.getByRole('button', { name: '3 shown · Show all' })).toBeVisible()
    await page.getByRole('button', { name: '3 shown · Show all' }).click()
    await page.getByRole('button', { name: 'More for the whole set' }).click()
    await page.getByText('Take all touch-ups back').click()
    await page.getByRole('button', { name: 'Take all back' }).last().click()
    await page.getByRole('button', { name: 'Deliver the 3 changed' }).click()
    await expect(page.getByText(/3 originals unchanged/)).toBeVisible({ timeout: 120_000 })
    // Touched up, then taken back: the very bytes of the first run.
    expect(hashes()).toEqual(first)
  },
)
