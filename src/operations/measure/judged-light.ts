import { memoised } from '@/base/lru-cache'
import type { LinearPicture } from '@/pixels/linear-picture'
import { type JudgedLight, lightJudge, seenColours } from './light'
import { lightModel } from './light-model'

const judge = lightJudge(lightModel)

/** The light a picture was taken in, worked out once for each copy; undefined where too little of it can be judged. */
export const judgedLight = memoised((picture: LinearPicture): JudgedLight | undefined => {
  const colours = seenColours(picture)
  return colours && judge(picture.kernels, colours)
})
