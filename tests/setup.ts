import fc from 'fast-check'

/*
 * Property tests run through the same inputs every time, so that a change is judged by itself and not by luck.
 * COPPER_LOOP_SEED=random looks for new ones; a failure prints its seed, to be tried again with COPPER_LOOP_SEED=….
 */
const wanted = process.env.COPPER_LOOP_SEED
if (wanted !== 'random') fc.configureGlobal({ seed: Number(wanted ?? 27) })
