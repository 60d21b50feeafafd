/** Options of a test that takes long and finds little: `./loop test short` leaves it out, as it does the project of that name. */
export const soak = { tags: ['soak'] }
