import { systemCode } from '@/base/errors'
/** Whether a process of this machine is still there. */
export function isAlive(processId: number): boolean {
  try {
    process.kill(processId, 0)
    return true
  } catch (error) {
    return systemCode(error) === 'EPERM'
  }
}
