import { scryptSync } from 'node:crypto'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { Gatekeeper, type Lock, lockOf, makeKey, newSession, sessionMs, sessionOf } from './sessions'

const salt = Buffer.from('0123456789abcdef')
const passphrase = 'a kiln is a slow camera'
const lock = async (): Promise<Lock> => ({ salt, key: await makeKey(passphrase, salt) })

describe('the door', () => {
  it('stretches a passphrase with scrypt: the second vector of RFC 7914, section 12, by the same function', async () => {
    // P="password", S="NaCl", N=1024, r=8, p=16: first bytes of the published output.
    const published = scryptSync('password', 'NaCl', 64, { N: 1024, r: 8, p: 16 }).toString('hex')
    expect(published.startsWith('fdbabe1c9d3472007856e7190d01e9fe7c6ad7cbc8237830e77376634b373162')).toBe(true)
    expect((await makeKey('password', salt)).equals(scryptSync('password', salt, 32, { N: 2 ** 15, r: 8, p: 1, maxmem: 64 << 20 }))).toBe(
      true,
    )
  })
  it('opens for a session until it expires, and for none of another passphrase', async () => {
    const own = await lock()
    const token = newSession(own, 1000)
    expect(sessionOf(own, token, 1000)).toBeDefined()
    expect(sessionOf(own, token, 1000 + sessionMs - 1)).toBeDefined()
    expect(sessionOf(own, token, 1000 + sessionMs)).toBeUndefined()
    expect(sessionOf({ salt, key: await makeKey('another passphrase', salt) }, token, 1000)).toBeUndefined()
  })
  it('opens for nothing that was made up or changed', async () => {
    const own = await lock()
    const token = newSession(own, 1000)
    fc.assert(fc.property(fc.string(), (made) => !sessionOf(own, made, 1000)))
    fc.assert(
      fc.property(fc.nat(token.length - 1), fc.constantFrom(...'A9._-'), (at, character) => {
        const changed = token.slice(0, at) + character + token.slice(at + 1)
        return changed === token || !sessionOf(own, changed, 1000)
      }),
    )
    expect(sessionOf(own, undefined)).toBeUndefined()
  })
  it('lets the right passphrase in, and keeps whoever guesses waiting longer and longer, each address for itself', async () => {
    const own = await lock()
    const keeper = new Gatekeeper()
    const guess = (now: number, address = 'a', words = 'wrong'): Promise<string> =>
      keeper.admit(own, words, address, now).then(
        (token) => (sessionOf(own, token, now) ? 'in' : 'bad token'),
        (error) => `${error.code} ${error.details.seconds ?? ''}`.trim(),
      )
    const five = await Promise.all([1, 2, 3, 4, 5].map(() => guess(0)))
    expect(new Set(five)).toEqual(new Set(['wrongPassphrase']))
    expect(await guess(500, 'a', passphrase)).toBe('tooManyTries 1')
    expect(await guess(500, 'b', passphrase)).toBe('in')
    expect(await guess(1000)).toBe('wrongPassphrase')
    expect(await guess(1500)).toBe('tooManyTries 2')
    expect(await guess(3000, 'a', passphrase)).toBe('in')
    expect(await guess(3001)).toBe('wrongPassphrase')
    expect(await guess(3002)).toBe('wrongPassphrase')
  })
  it('is open where no lock was made', () => {
    expect(lockOf({ NODE_ENV: 'test' })).toBeUndefined()
    expect(lockOf({ NODE_ENV: 'test', COPPER_LOOP_LOCK_KEY: 'ff', COPPER_LOOP_LOCK_SALT: '00' })?.key).toEqual(Buffer.from([255]))
  })
})
