import { sql } from 'drizzle-orm'
import { index, integer, primaryKey, sqliteTable, text, uniqueIndex } from 'drizzle-orm/sqlite-core'
import type { ErrorReport } from '@/base/errors'
import type { Delivery } from '@/jobs/delivery'
import type { GatheredFile } from '@/jobs/gather'
import type { LeftOut } from '@/jobs/left-out'
import type { LoopIntake, LoopStart, MacroUse, WhenDamaged } from '@/jobs/loop'
import type { PictureOnBench } from '@/jobs/picture-wire'
import type { ItemState, RunState } from '@/jobs/run'
import type { StationState } from '@/jobs/station'
import type { TouchUp } from '@/jobs/touch-up'
import type { BenchDocument, Change } from '@/macros/history'
import type { Answers } from '@/macros/open'
import type { Step } from '@/macros/step'
import type { PictureTraits } from '@/pixels/traits'

/*
 * All times are milliseconds since 1970. JSON columns hold plain data that was checked before it came here. What an
 * earlier version wrote may lack what came later: whoever reads it completes it.
 */

export const settings = sqliteTable('settings', {
  key: text('key').primaryKey(),
  value: text('value', { mode: 'json' }).notNull(),
})

export const macros = sqliteTable('macros', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  notes: text('notes').notNull().default(''),
  tags: text('tags', { mode: 'json' }).$type<readonly string[]>().notNull().default([]),
  createdAt: integer('created_at').notNull(),
  updatedAt: integer('updated_at').notNull(),
  deletedAt: integer('deleted_at'),
})

/** Never updated, never deleted while its macro is there. */
export const macroRevisions = sqliteTable(
  'macro_revisions',
  {
    macroId: text('macro_id')
      .notNull()
      .references(() => macros.id),
    revision: integer('revision').notNull(),
    steps: text('steps', { mode: 'json' }).$type<readonly Step[]>().notNull(),
    createdAt: integer('created_at').notNull(),
  },
  (table) => [primaryKey({ columns: [table.macroId, table.revision] })],
)

/** Every change made at the bench, in order. */
export const benchChanges = sqliteTable('bench_changes', {
  sequence: integer('sequence').primaryKey(),
  change: text('change', { mode: 'json' }).$type<Change>().notNull(),
})

/** One row: how many changes are in force, and what lies on the bench. */
export const benchState = sqliteTable('bench_state', {
  id: integer('id').primaryKey(),
  cursor: integer('cursor').notNull(),
  /** What lay on the wire before the oldest change that is kept; null for nothing. */
  base: text('base', { mode: 'json' }).$type<BenchDocument>(),
  /** How many changes were folded into `base`: the oldest one that is kept comes after them. */
  folded: integer('folded').notNull().default(0),
  samplePath: text('sample_path'),
  /** Paths of the pictures in the tray, in their order. */
  samples: text('samples', { mode: 'json' }).$type<readonly string[]>().notNull().default([]),
  macroId: text('macro_id'),
  /** The picture of a loop whose own steps lie on the wire beside the loop's; null where a macro of its own does. */
  picture: text('picture', { mode: 'json' }).$type<PictureOnBench>(),
})

export const loops = sqliteTable('loops', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  intake: text('intake', { mode: 'json' }).$type<LoopIntake>().notNull(),
  macroUses: text('macro_uses', { mode: 'json' }).$type<readonly MacroUse[]>().notNull(),
  deliveries: text('deliveries', { mode: 'json' }).$type<readonly Delivery[]>().notNull(),
  start: text('start', { mode: 'json' }).$type<LoopStart>().notNull().default({ when: 'byHand' }),
  /** Rises with every change: whoever changes an older one is told. */
  version: integer('version').notNull().default(0),
  /** The window that changed it last: one does not stand in its own way. */
  changedBy: text('changed_by'),
  /** Which set of numbers its counters draw from: numbering anew begins another. */
  numberSet: integer('number_set').notNull().default(0),
  createdAt: integer('created_at').notNull(),
  updatedAt: integer('updated_at').notNull(),
  deletedAt: integer('deleted_at'),
})

/** The number that a picture has in a loop for as long as the loop lives. */
export const pictureNumbers = sqliteTable(
  'picture_numbers',
  {
    loopId: text('loop_id').notNull(),
    numberSet: integer('number_set').notNull(),
    /** The folder that is counted through by itself; empty: the whole loop. */
    scope: text('scope').notNull(),
    sourcePath: text('source_path').notNull(),
    /** Counted from 0. */
    ordinal: integer('ordinal').notNull(),
  },
  (table) => [
    primaryKey({ columns: [table.loopId, table.numberSet, table.scope, table.sourcePath] }),
    uniqueIndex('picture_numbers_ordinal').on(table.loopId, table.numberSet, table.scope, table.ordinal),
  ],
)

/** What pictures of a loop have of their own: every state that was made, and which of them is in force. */
export const touchUps = sqliteTable(
  'touch_ups',
  {
    loopId: text('loop_id').notNull(),
    sourcePath: text('source_path').notNull(),
    /** The source as it was when it was touched up last. */
    sizeBytes: integer('size_bytes').notNull(),
    modifiedMs: integer('modified_ms').notNull(),
    /** SHA-256: by it the picture is found again where it was moved or renamed. */
    sourceHash: text('source_hash').notNull(),
    /** States in the order in which they were made; before the first the picture was untouched. */
    states: text('states', { mode: 'json' }).$type<readonly TouchUp[]>().notNull(),
    /** How many of them have been made and not taken back: the last of these is in force. */
    cursor: integer('cursor').notNull(),
    /** Rises with every change: whoever changes an older one is told. */
    version: integer('version').notNull(),
    updatedAt: integer('updated_at').notNull(),
  },
  (table) => [primaryKey({ columns: [table.loopId, table.sourcePath] })],
)

/** What came of a loop's starts by itself. */
export const standingStarts = sqliteTable('standing_starts', {
  loopId: text('loop_id').primaryKey(),
  /** When it was last due, or when starting by itself was switched on. */
  dueAt: integer('due_at').notNull(),
  /** What lay in the intake when it was last taken up. */
  intakeSeen: text('intake_seen'),
  /** Why it could not start then, in words. */
  problem: text('problem'),
})

/** A macro as it was when the run was made. */
export interface FrozenMacro {
  readonly macroId: string
  readonly revision: number
  readonly name: string
  readonly steps: readonly Step[]
}

export const runs = sqliteTable(
  'runs',
  {
    id: text('id').primaryKey(),
    /** 1, 2 …: what people call it. */
    number: integer('number').notNull(),
    loopId: text('loop_id').notNull(),
    loopName: text('loop_name').notNull(),
    state: text('state').$type<RunState>().notNull(),
    /** Why it is paused. */
    reason: text('reason', { mode: 'json' }).$type<ErrorReport>(),
    macros: text('macros', { mode: 'json' }).$type<readonly FrozenMacro[]>().notNull(),
    deliveries: text('deliveries', { mode: 'json' }).$type<readonly Delivery[]>().notNull(),
    /** What was answered before it. */
    answers: text('answers', { mode: 'json' }).$type<Answers>().notNull().default({}),
    /** Files of pages that it made. */
    gathered: text('gathered', { mode: 'json' }).$type<readonly GatheredFile[]>().notNull().default([]),
    createdAt: integer('created_at').notNull(),
    /** Its place in the queue: lower comes first. */
    queuePosition: integer('place').notNull().default(0),
    /** Not before this time. */
    startAt: integer('start_at'),
    /** Which of all claims was the last for it: rises with each. */
    servedAt: integer('served_at').notNull().default(0),
    startedAt: integer('started_at'),
    finishedAt: integer('finished_at'),
    /** A hash of all that decides what a run makes of a source; null in runs of older versions until it is wanted. */
    making: text('making'),
    /** What becomes of pictures that can be read only in part. */
    /** It shows what a loop would make of a few pictures, and is none of its runs. */
    isTry: integer('is_try', { mode: 'boolean' }).notNull().default(false),
    damaged: text('damaged').$type<WhenDamaged>().notNull().default('fail'),
    leftOut: text('left_out', { mode: 'json' }).$type<LeftOut>(),
    // Kept up to date by triggers on items and results, so that nobody counts a long run anew.
    waiting: integer('waiting').notNull().default(0),
    working: integer('working').notNull().default(0),
    done: integer('done').notNull().default(0),
    failed: integer('failed').notNull().default(0),
    skipped: integer('skipped').notNull().default(0),
    deliveredBytes: integer('delivered_bytes').notNull().default(0),
    /** Sources compared with what they were before, and how many had changed. */
    compared: integer('compared').notNull().default(0),
    changed: integer('changed').notNull().default(0),
  },
  (table) => [index('runs_loop').on(table.loopId, table.making), index('runs_state').on(table.state)],
)

/** One source picture of a run: what a worker claims. */
export const items = sqliteTable(
  'items',
  {
    id: integer('id').primaryKey({ autoIncrement: true }),
    runId: text('run_id')
      .notNull()
      .references(() => runs.id),
    ordinal: integer('ordinal').notNull(),
    sourcePath: text('source_path').notNull(),
    relativePath: text('relative_path').notNull(),
    sizeBytes: integer('size_bytes').notNull(),
    modifiedMs: integer('modified_ms').notNull(),
    state: text('state').$type<ItemState>().notNull(),
    /** The runner that works on it, until when it may, and the token its answer must carry. */
    owner: text('owner'),
    leaseUntil: integer('lease_until'),
    token: integer('token').notNull().default(0),
    /** Times its worker died, and times the whole runner did. */
    crashes: integer('crashes').notNull().default(0),
    interruptions: integer('interruptions').notNull().default(0),
    finishedAt: integer('finished_at'),
    milliseconds: integer('milliseconds'),
    sourceHash: text('source_hash'),
    sourceUnchanged: integer('source_unchanged', { mode: 'boolean' }),
    width: integer('width'),
    height: integer('height'),
    format: text('format'),
    error: text('error', { mode: 'json' }).$type<ErrorReport>(),
    /** What it had of its own when the run was made; null for nothing. */
    touchUp: text('touch_up', { mode: 'json' }).$type<TouchUp>(),
    /** What should be known of it though it was delivered. */
    remarks: text('remarks', { mode: 'json' }).$type<readonly ErrorReport[]>(),
  },
  (table) => [
    uniqueIndex('items_run_ordinal').on(table.runId, table.ordinal),
    index('items_state').on(table.state, table.runId, table.ordinal),
    index('items_finished').on(table.runId, table.finishedAt),
    index('items_source').on(table.sourcePath),
  ],
)

/** One picture of a run in one delivery. */
export const results = sqliteTable(
  'results',
  {
    id: integer('id').primaryKey({ autoIncrement: true }),
    itemId: integer('item_id')
      .notNull()
      .references(() => items.id),
    deliveryId: text('delivery_id').notNull(),
    targetPath: text('target_path').notNull(),
    /** SHA-256 of the file of this loop's in whose place this one may come. */
    replaces: text('replaces'),
    sizeBytes: integer('size_bytes'),
    hash: text('hash'),
    width: integer('width'),
    height: integer('height'),
    constants: text('constants', { mode: 'json' }).$type<readonly unknown[]>(),
    /** What the delivered picture looks like as a whole, to be compared with its siblings. */
    traits: text('look', { mode: 'json' }).$type<PictureTraits>(),
  },
  (table) => [index('results_item').on(table.itemId), index('results_target').on(table.targetPath)],
)

/** What was measured on a loop's set as a whole, for one of its steps. Once a run has gone by it, it stays: what was delivered stays as it is. */
export const setMiddles = sqliteTable(
  'set_middles',
  {
    loopId: text('loop_id').notNull(),
    /** Of the steps before and of the loop's set: with others it is measured anew. */
    key: text('key').notNull(),
    values: text('values', { mode: 'json' }).$type<readonly number[]>().notNull(),
    /** How many pictures were measured. */
    pictures: integer('pictures').notNull(),
    /** Of the list of pictures, as a hash. */
    ground: text('ground').notNull(),
    measuredAt: integer('measured_at').notNull(),
    /** Whether a run has gone by it. */
    used: integer('used', { mode: 'boolean' }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.loopId, table.key] })],
)

/** What happened, for pages that follow along. Old rows are cleared. */
export const events = sqliteTable('events', {
  id: integer('id').primaryKey({ autoIncrement: true }),
  runId: text('run_id').notNull(),
  at: integer('at').notNull().default(sql`(unixepoch() * 1000)`),
})

/** Runners that are, or were, at work. */
export const runners = sqliteTable('runners', {
  id: text('id').primaryKey(),
  processId: integer('process_id').notNull(),
  startedAt: integer('started_at').notNull(),
  beatAt: integer('beat_at').notNull(),
  /** What keeps it from working, in words. */
  trouble: text('trouble'),
})

/** Other machines that work on this one's pictures, or did in the last hour, as they say themselves. */
export const stations = sqliteTable('stations', {
  id: text('id').primaryKey(),
  sign: text('sign', { mode: 'json' }).$type<StationState>().notNull(),
  /** When it was heard last. */
  heardAt: integer('heard_at').notNull(),
})

/** Sessions that were ended before their time: they open nothing any more. */
export const endedSessions = sqliteTable('ended_sessions', {
  nonce: text('nonce').primaryKey(),
  /** When it would have ended by itself: then this row can go. */
  until: integer('until').notNull(),
})
