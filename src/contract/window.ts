/** The header by which a window of the browser tells its changes from those of other windows. */
export const windowHeader = 'x-copper-loop-window'
