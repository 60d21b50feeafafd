import { createHmac, randomBytes, scrypt, timingSafeEqual } from 'node:crypto'
import { promisify } from 'node:util'
import { AppError } from '@/core/errors'

/*
 * Who may come in when Copper Loop listens beyond this machine. The key is made of the passphrase when the web process
 * starts (scripts/web.mjs, scrypt of RFC 7914) and never written anywhere; a session is a time signed with it (HMAC,
 * RFC 2104), so that another passphrase ends all sessions.
 */

export const sessionCookie = 'copper-loop-session'
export const sessionMs = 30 * 24 * 3600_000

/** How the passphrase is stretched; scripts/web.mjs does the same. */
const stretching = { N: 2 ** 15, r: 8, p: 1, maxmem: 64 << 20 }
const keyBytes = 32
const stretch = promisify(scrypt) as (passphrase: string, salt: Buffer, length: number, options: typeof stretching) => Promise<Buffer>

/** What the door is locked with; none when only this machine is listened to. */
export interface Lock {
  readonly key: Buffer
  readonly salt: Buffer
}

export function lockOf(environment: NodeJS.ProcessEnv): Lock | undefined {
  const { COPPER_LOOP_DOOR_KEY: key, COPPER_LOOP_DOOR_SALT: salt } = environment
  return key && salt ? { key: Buffer.from(key, 'hex'), salt: Buffer.from(salt, 'hex') } : undefined
}

export const makeKey = (passphrase: string, salt: Buffer): Promise<Buffer> => stretch(passphrase, salt, keyBytes, stretching)

const sign = ({ key }: Lock, text: string): string => createHmac('sha256', key).update(text).digest('base64url')
const isSame = (a: Buffer, b: Buffer): boolean => a.length === b.length && timingSafeEqual(a, b)

/** A token that opens the door until it expires. */
export function newSession(lock: Lock, now: number = Date.now()): string {
  const text = `${now + sessionMs}.${randomBytes(12).toString('base64url')}`
  return `${text}.${sign(lock, text)}`
}

export function isSession(lock: Lock, token: string | undefined, now: number = Date.now()): boolean {
  const [until, nonce, signature] = token?.split('.') ?? []
  if (!until || !nonce || !signature || !(Number(until) > now)) return false
  return isSame(Buffer.from(signature), Buffer.from(sign(lock, `${until}.${nonce}`)))
}

/** Wrong tries that are free; each one after them doubles the wait. */
const freeTries = 5
const firstWaitMs = 1_000
const mostWaitMs = 15 * 60_000
const mostAddresses = 10_000

/** Keeps those waiting who try passphrases, each address for itself. */
export class Gatekeeper {
  private readonly wrong = new Map<string, { tries: number; until: number }>()

  /**
   * A session for the right passphrase.
   * @throws AppError `tooManyTries`, `wrongPassphrase`
   */
  async admit(lock: Lock, passphrase: string, address: string, now: number = Date.now()): Promise<string> {
    const { tries, until } = this.wrong.get(address) ?? { tries: 0, until: 0 }
    if (now < until) throw new AppError('tooManyTries', { seconds: Math.ceil((until - now) / 1000) })
    // Counted before the work, so that many at once do not get more tries.
    const wait = tries + 1 < freeTries ? 0 : Math.min(mostWaitMs, firstWaitMs * 2 ** (tries + 1 - freeTries))
    if (this.wrong.size >= mostAddresses) this.wrong.clear()
    this.wrong.set(address, { tries: tries + 1, until: now + wait })
    if (!isSame(await makeKey(passphrase, lock.salt), lock.key)) throw new AppError('wrongPassphrase')
    this.wrong.delete(address)
    return newSession(lock, now)
  }
}

const holder = globalThis as { copperLoopGatekeeper?: Gatekeeper }
export function gatekeeper(): Gatekeeper {
  holder.copperLoopGatekeeper ??= new Gatekeeper()
  return holder.copperLoopGatekeeper
}

/** The address that a request came from, as scripts/web.mjs noted it. */
export const addressHeader = 'x-copper-loop-address'
