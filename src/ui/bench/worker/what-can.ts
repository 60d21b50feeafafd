import { AppError, reportOf } from '@/base/errors'
import type { Step } from '@/macros/step'
import type { BeadPicture, RenderedView, RenderRequest } from './protocol'
import type { PictureSession } from './session'

/*
 * An error of one step takes neither the picture nor the page: the step is left out and named, the rest goes on.
 */

/** More broken steps than this are not looked for. */
const maxBroken = 8
/** Small enough to find a broken step in no time. */
const probe = { kind: 'fit', widthPx: 96, heightPx: 96 } as const

const sentenceOf = (error: unknown): string => {
  const { code, details } = reportOf(error)
  return new AppError(code, details).message
}

/** The first step of a list that makes it fail, with the reason. */
async function firstBroken(session: PictureSession, request: RenderRequest): Promise<{ index: number; sentence: string } | undefined> {
  for (let count = 1; count <= request.steps.length; count++)
    try {
      const steps = request.steps.slice(0, count)
      await session.render({
        ...request,
        steps,
        focus: Math.min(request.focus, count),
        view: probe,
        histogram: false,
        heldDensity: undefined,
      })
    } catch (error) {
      return { index: count - 1, sentence: sentenceOf(error) }
    }
  return undefined
}

/**
 * Renders a picture; steps that fail are left out of it and named.
 * @throws what is no fault of a step
 */
export async function renderWhatCan(session: PictureSession, request: RenderRequest): Promise<RenderedView> {
  const problems: Record<string, string> = {}
  let wish = request
  for (let tries = 0; ; tries++)
    try {
      return { ...(await session.render(wish)), problems }
    } catch (error) {
      const broken = tries < maxBroken ? await firstBroken(session, wish) : undefined
      const step = broken && wish.steps[broken.index]
      if (!step) throw error
      problems[step.id] = broken.sentence
      const focus = broken.index < wish.focus ? wish.focus - 1 : wish.focus
      wish = { ...wish, steps: wish.steps.filter((_, index) => index !== broken.index), focus }
    }
}

/** Small pictures after every step; after one that fails, the picture before it. */
export function beadsThatCan(session: PictureSession, steps: readonly Step[]): BeadPicture[] {
  try {
    return session.beadPictures(steps)
  } catch {
    const sound: Step[] = []
    const broken = new Map<string, string>()
    for (const step of steps)
      try {
        session.beadPictures([...sound, step])
        sound.push(step)
      } catch {
        broken.set(step.id, sound.at(-1)?.id ?? 'source')
      }
    const pictures = new Map(session.beadPictures(sound).map((picture) => [picture.stepId, picture]))
    for (const [stepId, before] of broken) {
      const picture = pictures.get(before)
      if (picture) pictures.set(stepId, { ...picture, stepId, isBroken: true })
    }
    return [...pictures.values()]
  }
}

/** What the picture takes with some of its steps; with one that fails, what it takes with those before it. */
export function timesThatCan(session: PictureSession, steps: readonly Step[], count: number): number {
  try {
    return session.times.withFirst(count, steps)
  } catch (error) {
    if (count === 0) throw error
    return timesThatCan(session, steps, count - 1)
  }
}
