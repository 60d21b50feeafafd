/** What of the package is used; its own types describe another entry of it. */
declare module 'libraw-wasm/dist/libraw.js' {
  interface LibRawSettings {
    readonly [setting: string]: unknown
  }
  /** Open a file, then ask. Whatever fails throws something that is no Error and says nothing. */
  class LibRaw {
    open(bytes: Uint8Array, settings: LibRawSettings): void
    metadata(full: boolean): unknown
    imageData(): { width: number; height: number; colors: number; bits: number; data: Uint8Array | Uint16Array } | undefined
    thumbnailData(): { data: Uint8Array; width: number; height: number; format: string } | undefined
    delete(): void
  }
  interface LibRawModule {
    readonly LibRaw: typeof LibRaw
  }
  const create: (options: {
    instantiateWasm(imports: WebAssembly.Imports, ready: (instance: WebAssembly.Instance, module: WebAssembly.Module) => void): object
    print?: (line: string) => void
    printErr?: (line: string) => void
  }) => Promise<LibRawModule>
  export default create
}
