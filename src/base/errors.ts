import { keysOf } from '@/base/schema'

/**
 * Every error a person can meet: its code, HTTP status and sentence. The place of failure gives the code and
 * the details; the wording stands here alone. A sentence says what happened, to what, and what to do.
 */
const table = {
  badRequest: [400, (d) => `The request could not be read: ${d.reason}.`],
  methodRefused: [405, (d) => `Requests of the kind ${d.method} are not answered.`],
  crossSite: [403, () => 'This request came from another site and was refused. Open Copper Loop at its own address.'],
  signInNeeded: [401, () => 'This needs the passphrase. Open the page again and sign in.'],
  wrongPassphrase: [401, () => 'That is not the passphrase.'],
  tooManyTries: [429, (d) => `Too many wrong tries. Wait ${d.seconds} s, then try again.`],
  outsideRoots: [403, (d) => `${d.path} lies outside the folders Copper Loop may use. Add its folder to the roots, or choose another.`],
  notFound: [404, (d) => `${d.what} was not found. It may have been removed.`],
  notNamed: [404, (d) => `There is no single ${d.what} called "${d.name}". There are: ${d.names}.`],
  folderMissing: [404, (d) => `The folder ${d.path} does not exist. Create it or choose another.`],
  folderUnreadable: [403, (d) => `The folder ${d.path} can't be read: ${d.reason}. Check its permissions.`],
  notAFolder: [400, (d) => `${d.path} is a file, not a folder. Choose the folder that holds it.`],
  fileMissing: [404, (d) => `${d.path} is no longer there. It was moved or removed after the list was made.`],
  fileUnreadable: [403, (d) => `${d.path} can't be read: ${d.reason}. Check its permissions.`],
  fileEmpty: [422, (d) => `${d.path} is empty (0 bytes). Copy it again from the camera or archive.`],
  fileIsLink: [422, (d) => `${d.path} is a link to another place now, and links are not followed. Take the picture itself.`],
  notAFile: [422, (d) => `${d.path} is no file: a folder, a device or a pipe has its name.`],
  fileTooLarge: [422, (d) => `${d.path} is larger than ${d.limit} MB, the most that is taken.`],
  fileSilent: [
    504,
    (d) => `${d.path} gave no answer within ${d.seconds} s. Its disk may have gone away, or the file is made to take for ever.`,
  ],
  noAnswer: [504, (d) => `${d.what} gave no answer within ${d.seconds} s. A folder that it needs may lie on a disk that has gone away.`],
  tooBusy: [503, () => 'Copper Loop is giving as many answers as it can hold. Try again in a moment.'],
  notAPicture: [422, (d) => `${d.path} is not a picture that can be read. Its name says picture, its content does not.`],
  pictureDamaged: [422, (d) => `${d.path} is damaged and can't be read to its end. Copy it again from the camera or archive.`],
  pictureInPart: [
    422,
    (d) => `${d.path} is damaged: a part of it can't be read as it was written. Copy it again from the camera or archive.`,
  ],
  rawUnknown: [
    422,
    (d) => `${d.path} is a raw file that can't be decoded: its camera, or how it is packed, is not known. Convert it to DNG first.`,
  ],
  rawEndless: [
    422,
    (d) => `${d.path} could not be decoded within ${d.seconds} s, and was given up. Copy it again from the camera or archive.`,
  ],
  oneFrame: [422, (d) => `${d.path} holds ${d.frames} pictures; the first one was taken.`],
  pictureTooLarge: [422, (d) => `${d.path} has more than ${d.limit} million pixels, the most that is taken.`],
  macroInvalid: [422, (d) => `The macro can't be used: ${d.where} ${d.reason}.`],
  bundleInvalid: [422, (d) => `The file ${d.name} can't be taken in: ${d.reason}. Nothing of it was kept.`],
  macroUnknownOperation: [
    422,
    (d) => `${d.where} needs the operation "${d.operation}", which this version does not have. The macro is kept as it is.`,
  ],
  nameTaken: [409, (d) => `There is a macro called "${d.name}" already. Choose another name.`],
  answerInvalid: [422, (d) => `The question “${d.question}” can't be answered with ${d.answer}: it takes ${d.range}.`],
  macroMissing: [422, (d) => `The macro ${d.macro} is not on the shelf any more. Choose another for this loop.`],
  loopNotReady: [422, (d) => `${d.loop} can't run yet: ${d.problem}`],
  benchMoved: [409, () => 'The bench was changed in another window. This window now shows that state.'],
  claimLost: [409, (d) => `${d.path} was given to another worker in the meantime. What this one made of it was not written.`],
  deliveryExists: [409, (d) => `${d.path} is there already and was not made by this run. It was left untouched.`],
  deliveryNotOurs: [
    409,
    (d) => `${d.path} is there, and is not what this loop delivered. It is left untouched: move it away, or let new files be numbered.`,
  ],
  deliveryLeadsOut: [
    403,
    (d) => `${d.path} is a link, or lies behind one, and could lead anywhere. Nothing was written. Deliver to the real folder.`,
  ],
  touchUpInvalid: [422, (d) => `The touch-up can't be used: ${d.reason}.`],
  touchUpFileInvalid: [422, (d) => `The file of touch-ups can't be used: ${d.reason}.`],
  touchUpMoved: [409, () => 'This picture was touched up in another window. This window now shows that state.'],
  preflightMoved: [409, (d) => `Since this was checked, ${d.difference}. Look at the list again, then start.`],
  loopMoved: [409, (d) => `${d.loop} was changed in another window. This window now shows that state; your last change is not in it.`],
  deliveryUnwritable: [507, (d) => `Nothing can be written to ${d.path}: ${d.reason}. Mend that; the run goes on by itself.`],
  deliveryRefused: [422, (d) => `${d.path} could not be written: ${d.reason}. No file was left half written.`],
  fileNotUsable: [422, (d) => `The file ${d.name} can't be used: ${d.reason}. Choose a picture, a .cube look or a face.`],
  keptFileMissing: [422, (d) => `The macro needs the file ${d.name}, which is not kept here. Choose it again in its step.`],
  resultTooLarge: [
    422,
    (d) =>
      `The step ${d.operation} would make a picture of ${d.width} × ${d.height} px. At most ${d.limit} million pixels are made; ask for less.`,
  ],
  inboxFull: [507, (d) => `The disk of Copper Loop’s own data has ${d.free} left, and ${d.wanted} would come. Free some space first.`],
  pagesFailed: [422, (d) => `The pages could not be made: ${d.reason}.`],
  pageTooLarge: [
    422,
    (d) =>
      `A page of ${d.width} × ${d.height} px is too large as a picture: at most ${d.limit} million pixels are made. Choose fewer dpi, or a PDF.`,
  ],
  tooLargeForFormat: [422, (d) => `${d.format} holds at most ${d.limit} px a side. Deliver a smaller size or another format.`],
  sizeOutOfReach: [
    422,
    (d) => `No ${d.format} of quality ${d.quality} or better has at most ${d.limit} kB. Allow more, or deliver a smaller size.`,
  ],
  diskFull: [507, (d) => `The disk that holds ${d.path} is full. Free some space; the run goes on by itself.`],
  workerCrashed: [500, (d) => `The work on ${d.path} stopped twice without an answer (${d.reason}). The picture was left out.`],
  backupDamaged: [422, (d) => `${d.path} can't be gone back to: ${d.reason}. Nothing was changed.`],
  sourceChanged: [409, (d) => `${d.path} was changed by another program during the run.`],
  internal: [500, (d) => `Something went wrong in Copper Loop itself: ${d.reason}.`],
} satisfies Record<string, readonly [status: number, sentence: (details: ErrorDetails) => string]>

export type ErrorCode = keyof typeof table
export type ErrorDetails = Readonly<Record<string, string | number>>

/** An error as it crosses process and worker boundaries: plain data. */
export interface ErrorReport {
  readonly code: ErrorCode
  readonly details: ErrorDetails
}

export const errorCodes = keysOf(table)
export const errorStatus = (code: ErrorCode): number => table[code][0]
export const errorSentence = ({ code, details }: ErrorReport): string => table[code][1](details)

export class AppError extends Error {
  override readonly name = 'AppError'
  constructor(
    readonly code: ErrorCode,
    readonly details: ErrorDetails = {},
    options?: ErrorOptions,
  ) {
    super(errorSentence({ code, details }), options)
  }

  get report(): ErrorReport {
    return { code: this.code, details: this.details }
  }
}

/** Bundles of one process have a class of their own each, so the name tells. */
const isAppError = (error: unknown): error is AppError => error instanceof Error && error.name === 'AppError' && 'report' in error

/** What the operating system calls an error: `ENOENT` and the like. */
export const systemCode = (error: unknown): string | undefined =>
  typeof error === 'object' && error !== null && 'code' in error && typeof error.code === 'string' ? error.code : undefined

/** Any thrown value as a report; what the table does not know becomes `internal` with its message. */
export function reportOf(error: unknown): ErrorReport {
  if (isAppError(error)) return error.report
  return { code: 'internal', details: { reason: reasonOf(error) } }
}

/** A short reason in words for errors of the system; what speaks of the parts that this is built of is for the log. */
export function reasonOf(error: unknown): string {
  if (!(error instanceof Error)) return String(error)
  const code = systemCode(error)
  const said = (code && systemReasons[code]) ?? error.message.split('\n')[0] ?? error.name
  return innerWords.test(said) ? 'an unexpected fault; the log says more' : said
}

const innerWords = /vips|sharp|sqlite|yauzl|drizzle|webassembly|\bwasm\b|undefined|is not a function|node_modules|\bat \S+:\d+/i

const systemReasons: Record<string, string> = {
  EACCES: 'permission denied',
  EPERM: 'permission denied',
  EROFS: 'the disk is read-only',
  ENOSPC: 'the disk is full',
  EDQUOT: 'the disk quota is used up',
  ENOENT: 'it is not there any more',
  ENOTDIR: 'a part of the path is not a folder',
  EMFILE: 'too many files are open',
  EIO: 'the disk reports an error',
  ELOOP: 'a link leads in a circle, or links are not followed here',
  ENAMETOOLONG: 'the name is too long for this disk',
  ESTALE: 'the network disk has been exchanged',
  ETIMEDOUT: 'the network disk does not answer',
}
