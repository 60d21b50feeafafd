import { parentPort } from 'node:worker_threads'
import { decodeRaw, RawFailure, readRawHead, readRawPreview } from './libraw'
import type { RawAnswer, RawQuestion } from './raw-thread'

/* The thread in which raw files are opened. See raw-thread.ts. */

async function answerTo({ id, what, bytes }: RawQuestion): Promise<[RawAnswer, ArrayBuffer[]]> {
  if (what === 'head') return [{ id, answer: await readRawHead(bytes) }, []]
  if (what === 'preview') return [{ id, answer: await readRawPreview(bytes) }, []]
  const decoded = await decodeRaw(bytes, { halfSize: what === 'half' })
  return [{ id, answer: decoded }, [decoded.pixels.buffer]]
}

parentPort?.on('message', async (question: RawQuestion) => {
  try {
    const [answer, moved] = await answerTo(question)
    parentPort?.postMessage(answer, moved)
  } catch (error) {
    const failure =
      error instanceof RawFailure
        ? { stage: error.stage, complaint: error.complaint }
        : { stage: 'decode' as const, complaint: String(error) }
    parentPort?.postMessage({ id: question.id, failure } satisfies RawAnswer)
  }
})
