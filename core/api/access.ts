import { z } from 'zod'
import { idSchema, nameSchema, text, whenSchema } from '../bounded'

/* Signing in, and tokens for programs. */

export const sessionSchema = z.object({
  /** Whether this server asks for a password. */
  required: z.boolean(),
  signedIn: z.boolean(),
})
export const signInSchema = z.object({ password: text(1000).min(1) })

/** What a token is for: a program does what a person may; a render worker renders, and no more. */
const TOKEN_USES = ['program', 'worker'] as const
export type TokenUse = (typeof TOKEN_USES)[number]

export const tokenOrderSchema = z.object({
  name: nameSchema,
  use: z.enum(TOKEN_USES).default('program'),
})
export const apiTokenSchema = z.object({
  id: idSchema,
  name: nameSchema,
  use: z.enum(TOKEN_USES),
  createdAt: whenSchema,
  usedAt: whenSchema.nullable(),
})
export const newTokenSchema = z.object({
  id: idSchema,
  /** Shown only in this answer. */
  secret: text(100),
})

export type Session = z.infer<typeof sessionSchema>
export type ApiToken = z.infer<typeof apiTokenSchema>
export type NewToken = z.infer<typeof newTokenSchema>
