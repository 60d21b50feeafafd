import { open } from 'node:fs/promises'

/**
 * For the tests of promises: a picture whose name asks for it makes its worker die, hang, run out of memory, or lose
 * threads in calls that never come back. Off unless the environment says so.
 */
export async function simulateTrouble(path: string): Promise<void> {
  if (process.env.COPPER_LOOP_TROUBLE !== 'allowed') return
  if (path.includes('crash-worker')) process.exit(13)
  if (path.includes('hang-worker')) for (;;);
  if (path.includes('exhaust-worker')) for (const held: number[][] = []; ; ) held.push(new Array(1e6).fill(0.5))
  // Opening a named pipe that nobody writes to holds a thread, as a disk does that has gone away.
  const pipe = process.env.COPPER_LOOP_TROUBLE_PIPE
  if (path.includes('native-hang') && pipe) await open(pipe, 'r')
}
