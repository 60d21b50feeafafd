import { describe, expect, it } from 'vitest'
import { describeIntake, foldersOf, intakeOf, loopSchema, newLoop } from './loop'
import { commonFolder, loopOfPicked, takingPicked } from './picked'

describe('picked pictures', () => {
  it('share the innermost folder that holds them all', () => {
    expect(commonFolder(['/work/a/1.jpg', '/work/a/2.jpg'])).toBe('/work/a')
    expect(commonFolder(['/work/a/1.jpg', '/work/ab/2.jpg', '/work/a/c/3.jpg'])).toBe('/work')
    expect(commonFolder(['/a/1.jpg', '/b/1.jpg'])).toBe('')
    expect(commonFolder([])).toBe('')
  })
  it('become a whole loop, delivered beside their folder', () => {
    const loop = loopOfPicked('one', 'These', ['/work/day/tall/1.jpg', '/work/day/2.jpg'], ['/work'])
    expect(loopSchema.validateSync(loop)).toEqual(loop)
    expect(loop.intake.folder).toBe('/work/day')
    expect(loop.deliveries[0]?.folder).toBe('/work/day-web-set')
    expect(foldersOf(loop.intake)).toEqual(['/work/day/tall', '/work/day'])
    expect(describeIntake(loop.intake)).toBe('2 pictures of /work/day/tall, /work/day')
  })
  it('go to those that a loop takes already, each once; in place of a whole folder', () => {
    const whole = newLoop('l', { intake: intakeOf('/work') })
    const some = takingPicked(whole, ['/work/1.jpg', '/work/2.jpg'])
    expect(some.intake).toMatchObject({ folder: '/work', picked: ['/work/1.jpg', '/work/2.jpg'] })
    expect(takingPicked(some, ['/work/2.jpg', '/else/3.jpg']).intake.picked).toEqual(['/work/1.jpg', '/work/2.jpg', '/else/3.jpg'])
  })
})
