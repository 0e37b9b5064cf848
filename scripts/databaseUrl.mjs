import { ensureDatabase } from './lib/setup.mjs'

/*
 * `npm run -s database-url`: starts the database where it does not run, and prints its address, for
 * dumps and for psql.
 */
console.log(await ensureDatabase())
