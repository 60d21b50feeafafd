import pino from 'pino'

/** What the web's process notes for whoever runs it, a line of JSON each: names in it are written so that no terminal takes them for orders. */
export const log = pino({ name: 'web', level: process.env.COPPER_LOOP_LOG ?? 'warn' })
