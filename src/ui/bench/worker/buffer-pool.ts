/** Buffers kept: one being drawn, one on its way to the screen, one on its way back. */
const maxKept = 3

/**
 * Memory of pictures that were shown and are not needed any more. The next ones are drawn into it: asking the system for new memory
 * with every picture takes up to half as long as drawing it.
 */
export class BufferPool {
  private kept: ArrayBuffer[] = []

  /** Its content is whatever was there before. */
  take(bytes: number): Uint8ClampedArray<ArrayBuffer> {
    const at = this.kept.findIndex((buffer) => buffer.byteLength === bytes)
    const [buffer] = at < 0 ? [] : this.kept.splice(at, 1)
    return new Uint8ClampedArray(buffer ?? new ArrayBuffer(bytes))
  }

  keep(buffer: ArrayBuffer): void {
    this.kept = [buffer, ...this.kept].slice(0, maxKept)
  }
}
