/** Details of a test that takes long and finds little: `./loop test short` leaves it out. */
export const soak = { tag: '@soak' }
