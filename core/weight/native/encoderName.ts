import { z } from 'zod'

/** An encoder and its version, as recipes and files name it: `x264 0.164.3095`. */
export const encoderNameSchema = z
  .string()
  .max(60)
  .regex(/^[a-z0-9-]+ [0-9][0-9a-z.+~-]*$/, 'An encoder and its version.')
