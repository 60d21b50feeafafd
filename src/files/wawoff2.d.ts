declare module 'wawoff2' {
  /** A WOFF2 face (W3C) unpacked to OpenType or TrueType. */
  export function decompress(packed: Uint8Array): Promise<Uint8Array>
}
