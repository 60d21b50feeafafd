import { facesOf, keptFilesOf } from '@/macros/kept-files'
import type { Step } from '@/macros/step'
import { type Asset, keptFileHash, keptFileName } from '@/pixels/kept-file'
import { readAsset, readFace } from './kept-files'

/** Where files kept with macros and the shipped faces lie. */
export interface AssetFolders {
  readonly files: string
  readonly fonts: string
}

/** Files are the same for every picture of a run: a worker reads each once. */
const keptAssets = new Map<string, Asset>()
const maxAssets = 16

/** The files that steps need, by hash or face. @throws AppError `keptFileMissing` */
export async function assetsFor(steps: readonly Step[], folders: AssetFolders): Promise<ReadonlyMap<string, Asset>> {
  const wanted = new Map<string, () => Promise<Asset>>([
    ...keptFilesOf(steps).map(
      (value) => [keptFileHash(value), () => readAsset(folders.files, keptFileHash(value), keptFileName(value))] as const,
    ),
    ...facesOf(steps).map((key) => [key, () => readFace(folders.fonts, key.replace(/^font:/, ''))] as const),
  ])
  const found = new Map<string, Asset>()
  for (const [key, read] of wanted) {
    const asset = keptAssets.get(key) ?? (await read())
    if (keptAssets.size >= maxAssets) keptAssets.clear()
    keptAssets.set(key, asset)
    found.set(key, asset)
  }
  return found
}
