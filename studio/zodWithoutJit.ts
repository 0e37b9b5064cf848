import { z } from 'zod'

// Imported before any schema is made: our content policy forbids code made from text, which Zod
// would try for speed.
z.config({ jitless: true })
