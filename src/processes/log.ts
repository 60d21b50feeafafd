import { basename } from 'node:path'
import pino from 'pino'

/**
 * What a process notes for whoever runs it: a line of JSON each, so that no name of a file in it is taken for orders by a
 * terminal. It is called as the process is: web, runner, helper, cli.
 */
export const log = pino({ name: basename(process.argv[1] ?? 'node').replace(/\.\w+$/, ''), level: process.env.COPPER_LOOP_LOG ?? 'warn' })
