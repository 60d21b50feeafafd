/** The name of the file beside a delivered picture that tells how it was made. */
export const sidecarSuffix = '.steps.json'
export const sidecarPath = (picturePath: string): string => `${picturePath}${sidecarSuffix}`

export const sidecarFormat = 'copper-loop/steps'
export const sidecarVersion = 1
