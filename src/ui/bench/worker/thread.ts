/** A worker's own end: what it is sent, and where it answers. The page's types know only the page's end. */
interface Thread<In, Out> {
  onmessage: ((event: MessageEvent<In>) => void) | null
  postMessage(message: Out, transfer?: Transferable[]): void
}

/** This thread, as a worker that is sent `In` and answers `Out`. */
export const thisThread = <In, Out>(): Thread<In, Out> => self as unknown as Thread<In, Out>
