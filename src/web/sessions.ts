import { createHmac, randomBytes, scrypt, scryptSync, timingSafeEqual } from 'node:crypto'
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { promisify } from 'node:util'
import PQueue from 'p-queue'
import { AppError } from '@/base/errors'
import type { Context } from '@/services/context'
import { endSession, isEnded } from '@/store/ended-sessions'

/*
 * Who may come in when Copper Loop listens beyond this machine. The key is made of the passphrase when the web process
 * starts (scrypt of RFC 7914) and never written anywhere; a session is a time signed with it (HMAC, RFC 2104), so that
 * another passphrase ends all sessions. One that was signed out is noted until it would have ended by itself.
 */

export const sessionCookie = 'copper-loop-session'
export const sessionMs = 30 * 24 * 3600_000

/** How the passphrase is stretched. */
const stretching = { N: 2 ** 15, r: 8, p: 1, maxmem: 64 << 20 }
const keyBytes = 32
const stretch = promisify(scrypt) as (passphrase: string, salt: Buffer, length: number, options: typeof stretching) => Promise<Buffer>

/** What the door is locked with; none when only this machine is listened to. */
export interface Lock {
  readonly key: Buffer
  readonly salt: Buffer
}

export function lockOf(environment: NodeJS.ProcessEnv): Lock | undefined {
  const { COPPER_LOOP_LOCK_KEY: key, COPPER_LOOP_LOCK_SALT: salt } = environment
  return key && salt ? { key: Buffer.from(key, 'hex'), salt: Buffer.from(salt, 'hex') } : undefined
}

const minPassphrase = 12

/**
 * Locks the door with the environment's passphrase: what is made of it goes into the environment, for all parts of this process.
 * @returns in words why it can't be locked; undefined when it is
 */
export function makeLock(environment: NodeJS.ProcessEnv, dataFolder: string): string | undefined {
  const passphrase = environment.COPPER_LOOP_PASSPHRASE ?? ''
  if (passphrase.length < minPassphrase)
    return `Set COPPER_LOOP_PASSPHRASE to at least ${minPassphrase} characters, or leave COPPER_LOOP_HOST out.`
  const salt = lockSalt(dataFolder)
  environment.COPPER_LOOP_LOCK_KEY = scryptSync(passphrase, salt, keyBytes, stretching).toString('hex')
  environment.COPPER_LOOP_LOCK_SALT = salt.toString('hex')
  return undefined
}

/** The salt stays, so that sessions outlive a start. */
function lockSalt(folder: string): Buffer {
  const path = join(folder, 'door-salt')
  try {
    return readFileSync(path)
  } catch {
    mkdirSync(folder, { recursive: true })
    writeFileSync(path, randomBytes(16), { mode: 0o600 })
    return readFileSync(path)
  }
}

export const makeKey = (passphrase: string, salt: Buffer): Promise<Buffer> => stretch(passphrase, salt, keyBytes, stretching)

const sign = ({ key }: Lock, text: string): string => createHmac('sha256', key).update(text).digest('base64url')
const isSame = (a: Buffer, b: Buffer): boolean => a.length === b.length && timingSafeEqual(a, b)

/** A token that opens the door until it expires. */
export function newSession(lock: Lock, now: number = Date.now()): string {
  const text = `${now + sessionMs}.${randomBytes(12).toString('base64url')}`
  return `${text}.${sign(lock, text)}`
}

export interface Session {
  readonly nonce: string
  /** When it ends by itself. */
  readonly until: number
}

/** The session that a token stands for, if it does. */
export function sessionOf(lock: Lock, token: string | undefined, now: number = Date.now()): Session | undefined {
  const [until, nonce, signature] = token?.split('.') ?? []
  if (!until || !nonce || !signature || !(Number(until) > now)) return undefined
  if (!isSame(Buffer.from(signature), Buffer.from(sign(lock, `${until}.${nonce}`)))) return undefined
  return { nonce, until: Number(until) }
}

/** The session's token. */
export function cookieOf(header: string | undefined): string | undefined {
  for (const part of header?.split(';') ?? []) {
    const [name, ...value] = part.trim().split('=')
    if (name === sessionCookie) return value.join('=')
  }
  return undefined
}

/** Whether a session was signed out before its time. */
export const isSignedOut = ({ db }: Pick<Context, 'db'>, nonce: string): boolean => isEnded(db, nonce)

/** Ends the session that a cookie stands for: it opens nothing any more. */
export function signOut({ db }: Pick<Context, 'db'>, lock: Lock | undefined, cookies: string | undefined, now: number = Date.now()): void {
  const session = lock && sessionOf(lock, cookieOf(cookies), now)
  if (session) endSession(db, session.nonce, session.until, now)
}

/** Wrong tries that are free; each one after them doubles the wait. */
const freeTries = 5
const firstWaitMs = 1_000
const maxWaitMs = 15 * 60_000
const maxAddresses = 10_000
/** Stretching a passphrase takes 32 MB and a tenth of a second: how many are stretched at a time, and how many may wait. */
const stretchingAtOnce = 2
const maxStretching = 16
const busySeconds = 5

/** Keeps those waiting who try passphrases, each address for itself. */
export class Gatekeeper {
  private readonly wrong = new Map<string, { tries: number; until: number }>()
  private readonly stretching = new PQueue({ concurrency: stretchingAtOnce })

  /**
   * A session for the right passphrase.
   * @throws AppError `tooManyTries`, `wrongPassphrase`
   */
  async admit(lock: Lock, passphrase: string, address: string, now: number = Date.now()): Promise<string> {
    const { tries, until } = this.wrong.get(address) ?? { tries: 0, until: 0 }
    if (now < until) throw new AppError('tooManyTries', { seconds: Math.ceil((until - now) / 1000) })
    if (this.stretching.size + this.stretching.pending >= maxStretching) throw new AppError('tooManyTries', { seconds: busySeconds })
    // Counted before the work, so that many at once do not get more tries.
    const wait = tries + 1 < freeTries ? 0 : Math.min(maxWaitMs, firstWaitMs * 2 ** (tries + 1 - freeTries))
    if (this.wrong.size >= maxAddresses) this.wrong.clear()
    this.wrong.set(address, { tries: tries + 1, until: now + wait })
    const key = await this.stretching.add(() => makeKey(passphrase, lock.salt))
    if (!isSame(key, lock.key)) throw new AppError('wrongPassphrase')
    this.wrong.delete(address)
    return newSession(lock, now)
  }
}

const holder = globalThis as { copperLoopGatekeeper?: Gatekeeper }
export function gatekeeper(): Gatekeeper {
  holder.copperLoopGatekeeper ??= new Gatekeeper()
  return holder.copperLoopGatekeeper
}

/** The address that a request came from, and whether it came encrypted, as the web's process noted it. */
export const addressHeader = 'x-copper-loop-address'
export const secureHeader = 'x-copper-loop-secure'
