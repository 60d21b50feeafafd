/** Where a station asks the main machine for files kept with macros: by their hash behind this, or whether it would be answered at all. */
export const keptFilePath = '/api/stations/kept/'
export const keptFileGreeting = 'hello'
