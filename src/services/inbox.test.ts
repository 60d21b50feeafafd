import { copyFileSync, existsSync, mkdirSync, readdirSync, readFileSync, symlinkSync, utimesSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { claimItem, finishItem } from '@/store/queue'
import { advanceRun, listItems } from '@/store/runs'
import { type TestApplication, testApplication, testLoop } from '../../tests/application'
import { inboxFolder, uploadsFolder } from './context'
import { clearInbox, clearOldInbox, forgetDrop, inboxState, keepInboxFor, openDrop, takeIntoInbox } from './inbox'
import { runDrop } from './runs/drop'

const picture = 'demo/pictures/vessels/TLK27_0418.jpg'
const arrived = ({ context }: TestApplication, from = picture): string => {
  const upload = join(uploadsFolder(context.dataFolder), `u${Math.random()}`)
  mkdirSync(dirname(upload), { recursive: true })
  copyFileSync(from, upload)
  return upload
}

async function drop(app: TestApplication, names: readonly string[]): Promise<{ loopId: string; drop: string }> {
  const loop = testLoop(app)
  const opened = await openDrop(app.context, loop.id, 1000)
  for (const name of names) await takeIntoInbox(app.context, { loopId: loop.id, ...opened, name, upload: arrived(app) })
  return { loopId: loop.id, ...opened }
}

describe('pictures dropped onto a loop', () => {
  it('run by its defaults, by their places in the drop, and its own folder is not looked into', async () => {
    const app = testApplication()
    copyFileSync(picture, join(app.intake, 'mine.jpg'))
    const dropped = await drop(app, ['a.jpg', 'Tall ones/b.JPG'])
    const run = await runDrop(app.context, dropped)
    const items = listItems(app.context.db, run.id)
    expect(items.map(({ relativePath }) => relativePath)).toEqual(['a.jpg', 'Tall ones/b.JPG'])
    expect(items.map(({ results }) => dirname(results[0]?.targetPath ?? ''))).toEqual([app.delivery, app.delivery])
  })

  it('count only when they are pictures, whole, under names that every system takes; none is written over', async () => {
    const app = testApplication()
    const dropped = await drop(app, ['a.jpg', 'a.jpg', '../../out?.jpg', '/etc/../x/con.jpg'])
    const root = join(inboxFolder(app.context.dataFolder), dropped.loopId.replaceAll('.', '%2E'), dropped.drop)
    const names = readdirSync(root, { recursive: true, encoding: 'utf8' })
      .filter((name) => /jpg$/i.test(name))
      .sort()
    expect(names).toEqual(['_/_/out-.jpg', 'a-2.jpg', 'a.jpg', 'etc/_/x/_con.jpg'])
    const take = (name: string, upload: string) => takeIntoInbox(app.context, { ...dropped, name, upload })
    const text = join(app.root, 'text')
    writeFileSync(text, 'no picture')
    await expect(take('text.jpg', arrived(app, text))).rejects.toMatchObject({ code: 'notAPicture' })
    await expect(take('film.mov', arrived(app))).rejects.toMatchObject({ code: 'notAPicture' })
    await expect(take('.hidden.jpg', arrived(app))).rejects.toMatchObject({ code: 'notAPicture' })
    const empty = join(app.root, 'empty')
    writeFileSync(empty, '')
    await expect(take('empty.jpg', arrived(app, empty))).rejects.toMatchObject({ code: 'fileEmpty' })
    const away = join(app.root, 'link')
    symlinkSync(join(process.cwd(), picture), away)
    await expect(take('link.jpg', away)).rejects.toMatchObject({ code: 'fileIsLink' })
    await expect(takeIntoInbox(app.context, { ...dropped, drop: '../..', name: 'x.jpg', upload: arrived(app) })).rejects.toMatchObject({
      code: 'badRequest',
    })
    expect(readdirSync(root, { recursive: true }).length).toBe(names.length + 5)
  })

  it('are refused before they come where there is no such loop, or no room', async () => {
    const app = testApplication()
    await expect(openDrop(app.context, 'nobody', 1)).rejects.toMatchObject({ code: 'notFound' })
    await expect(openDrop(app.context, testLoop(app).id, 1e18)).rejects.toMatchObject({ code: 'inboxFull' })
    const none = await drop(app, [])
    await expect(runDrop(app.context, none)).rejects.toMatchObject({ code: 'loopNotReady' })
  })

  it('stay until somebody clears them, or for as long as was said; what a run still needs stays', async () => {
    const app = testApplication()
    const [old, used, young] = [await drop(app, ['old.jpg']), await drop(app, ['used.jpg']), await drop(app, ['young.jpg'])]
    const folderOf = ({ loopId, drop: name }: typeof old): string =>
      join(inboxFolder(app.context.dataFolder), loopId.replaceAll('.', '%2E'), name)
    const run = await runDrop(app.context, used)
    for (const each of [old, used]) utimesSync(folderOf(each), 5, 5)
    const there = (): boolean[] => [old, used, young].map((each) => existsSync(folderOf(each)))
    await clearOldInbox(app.context)
    expect(there()).toEqual([true, true, true])
    keepInboxFor(app.context, 30)
    await clearOldInbox(app.context)
    expect(there()).toEqual([false, true, true])
    expect(await inboxState(app.context)).toMatchObject({ pictures: 2, keptDays: 30, bytes: 2 * readFileSync(picture).length })
    for (let claim = claimItem(app.context.db, 'me', 1, 1000); claim; claim = claimItem(app.context.db, 'me', 1, 1000))
      finishItem(app.context.db, claim.item, { state: 'failed', milliseconds: 1, delivered: [] }, 2)
    advanceRun(app.context.db, run.id, 'finished', 3)
    await clearInbox(app.context)
    expect(there()).toEqual([false, false, false])
    await forgetDrop(app.context, young.loopId, young.drop)
  })
})
