/*
 * A number of an array, where the index is known to be inside it: the compiler can't know. One function for each kind of
 * array, so that each stays as fast as the bare access.
 */

export const floatAt = (values: Float32Array, index: number): number => values[index] as number
export const doubleAt = (values: Float64Array, index: number): number => values[index] as number
export const byteAt = (values: Uint8Array | Uint8ClampedArray, index: number): number => values[index] as number
export const wordAt = (values: Uint16Array, index: number): number => values[index] as number
export const integerAt = (values: Int32Array | Uint32Array, index: number): number => values[index] as number
export const numberAt = (values: readonly number[], index: number): number => values[index] as number
/** Codes of 8 or 16 bits. */
export const codeAt = (values: Uint8Array | Uint8ClampedArray | Uint16Array, index: number): number => values[index] as number
export const realAt = (values: Float32Array | Float64Array, index: number): number => values[index] as number
export const valueAt = (values: ArrayLike<number>, index: number): number => values[index] as number
