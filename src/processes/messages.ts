import type { ErrorReport } from '@/base/errors'

/** Parent → child. */
export type ToChild =
  | { readonly type: 'job'; readonly id: number; readonly job: unknown }
  | { readonly type: 'cancel'; readonly id: number }
  | { readonly type: 'goOn'; readonly question: number; readonly may: boolean }

/** Child → parent. Progress also says that the child is alive. */
export type FromChild =
  | { readonly type: 'ready' }
  | { readonly type: 'progress'; readonly id: number; readonly progress: unknown }
  /** Asks whether it may go on with a job. */
  | { readonly type: 'mayGoOn'; readonly id: number; readonly question: number }
  /** `spoilt`: a part of the child is lost in something that does not come back; it should be replaced. */
  | { readonly type: 'answer'; readonly id: number; readonly answer: unknown; readonly spoilt: boolean }
  | { readonly type: 'failed'; readonly id: number; readonly report: ErrorReport; readonly spoilt: boolean }
