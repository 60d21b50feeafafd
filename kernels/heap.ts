const pageBytes = 65536

/** Byte address in the kernels' memory. */
export type Pointer = number

/**
 * The kernels' linear memory as a stack of scratch space. Nothing in it outlives one render: sources
 * and cached frames live outside and are copied in strip by strip, so the stack is all there is to free.
 *
 * Growing the memory detaches every view, so views are taken anew by `f32()` and the like after each
 * allocation, never kept.
 */
export class Heap {
  private top: number
  private highest: number

  constructor(
    readonly memory: WebAssembly.Memory,
    /** First address behind the kernels' own constants. */
    base: number,
  ) {
    this.top = align(base)
    this.highest = this.top
  }

  /** Takes `bytes` from the stack, aligned to 16. The content is whatever was there before. */
  allocate(bytes: number): Pointer {
    const pointer = this.top
    this.top = align(this.top + bytes)
    this.highest = Math.max(this.highest, this.top)
    const missing = this.top - this.memory.buffer.byteLength
    if (missing > 0) this.memory.grow(Math.ceil(missing / pageBytes))
    return pointer
  }

  /** Allocates and copies numbers in. */
  floats(values: ArrayLike<number>): Pointer {
    const pointer = this.allocate(values.length * 4)
    this.f32(pointer, values.length).set(values)
    return pointer
  }

  doubles(values: ArrayLike<number>): Pointer {
    const pointer = this.allocate(values.length * 8)
    this.f64(pointer, values.length).set(values)
    return pointer
  }

  integers(values: ArrayLike<number>): Pointer {
    const pointer = this.allocate(values.length * 4)
    this.i32(pointer, values.length).set(values)
    return pointer
  }

  /** Runs `work` and gives back all that it allocated. */
  scope<T>(work: () => T): T {
    const mark = this.mark()
    try {
      return work()
    } finally {
      this.release(mark)
    }
  }

  /** Where the stack ends now, for work that is not done in one go. */
  mark(): Pointer {
    return this.top
  }

  /** Gives back all that was allocated since the mark was taken. */
  release(mark: Pointer): void {
    this.top = mark
  }

  f32(pointer: Pointer, length: number): Float32Array {
    return new Float32Array(this.memory.buffer, pointer, length)
  }

  f64(pointer: Pointer, length: number): Float64Array {
    return new Float64Array(this.memory.buffer, pointer, length)
  }

  i32(pointer: Pointer, length: number): Int32Array {
    return new Int32Array(this.memory.buffer, pointer, length)
  }

  u8(pointer: Pointer, length: number): Uint8Array {
    return new Uint8Array(this.memory.buffer, pointer, length)
  }

  /** The most bytes that were ever in use, for the benchmark. */
  get peakBytes(): number {
    return this.highest
  }
}

const align = (address: number): number => (address + 15) & ~15
