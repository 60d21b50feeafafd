import { cpSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { takeOver } from './backups'
import { databaseFile, openDatabase } from './database'
import { listLoops } from './loops'
import { findMacro } from './macros'
import { listItems, queuedRuns } from './runs'

const migrations = 'src/store/migrations'
interface Journal {
  entries: { tag: string }[]
}
const journal: Journal = JSON.parse(readFileSync(join(migrations, 'meta/_journal.json'), 'utf8'))

/** A database as the first few migrations left it, with a little of everything in it. */
function olderDatabase(count: number): string {
  const folder = mkdtempSync(join(tmpdir(), 'copper-loop-older-'))
  const own = join(folder, 'migrations')
  cpSync(migrations, own, { recursive: true })
  writeFileSync(join(own, 'meta/_journal.json'), JSON.stringify({ ...journal, entries: journal.entries.slice(0, count) }))
  const { $client } = openDatabase(folder, own)
  $client.exec(`
    insert into macros (id, name, created_at, updated_at) values ('m', 'Old macro', 1, 1);
    insert into macro_revisions values ('m', 1, '[{"id":"a"}]', 1);
    insert into loops (id, name, intake, macro_uses, deliveries, created_at, updated_at)
      values ('l', 'Old loop', '{"folder":"/in","subfolders":true}', '[]', '[{"id":"d","folder":"/out"}]', 1, 1);
    insert into runs (id, number, loop_id, loop_name, state, macros, deliveries, created_at) values ('r', 7, 'l', 'Old loop', 'running', '[]', '[]', 1);
    insert into items (id, run_id, ordinal, source_path, relative_path, size_bytes, modified_ms, state, owner, token)
      values (1, 'r', 0, '/in/a.jpg', 'a.jpg', 1, 1, 'working', 'somebody', 3);
    insert into results (item_id, delivery_id, target_path) values (1, 'd', '/out/a.jpg');
  `)
  $client.close()
  return folder
}

describe('a database of an older version', () => {
  it.each(journal.entries.map(({ tag }, i) => [tag, i + 1] as const))(
    'as of %s is brought to the newest with all that is in it',
    (_, count) => {
      const db = openDatabase(olderDatabase(count))
      expect(findMacro(db, 'm')).toMatchObject({ name: 'Old macro', steps: [{ id: 'a' }] })
      expect(listLoops(db)).toMatchObject([
        { name: 'Old loop', start: { when: 'byHand' }, deliveries: [{ folder: '/out', namePattern: '{name}' }] },
      ])
      expect(queuedRuns(db)).toMatchObject([{ number: 7, queuePosition: expect.any(Number) }])
      expect(listItems(db, 'r')).toMatchObject([{ relativePath: 'a.jpg', results: [{ targetPath: '/out/a.jpg' }] }])
    },
  )
  it('is taken over into a live one that others have open, and what was in work goes back in line', async () => {
    const live = mkdtempSync(join(tmpdir(), 'copper-loop-live-'))
    const [here, elsewhere] = [openDatabase(live), openDatabase(live)]
    expect(listLoops(elsewhere)).toEqual([])
    await takeOver(live, databaseFile(olderDatabase(1)))
    for (const db of [here, elsewhere]) {
      expect(listLoops(db)).toMatchObject([{ name: 'Old loop' }])
      expect(listItems(db, 'r')).toMatchObject([{ state: 'waiting', owner: null, token: 3 }])
    }
    expect(here.$client.pragma('integrity_check', { simple: true })).toBe('ok')
    expect(here.$client.pragma('journal_mode', { simple: true })).toBe('wal')
  })
})
