import type { Context } from 'koa'

/**
 * Whether the caller says that it has this version already. Source: RFC 9110, section 13.1.2; weak
 * comparison.
 */
export function isHeldBy(ctx: Context, etag: string): boolean {
  const held = ctx.get('If-None-Match').split(',')
  return held.some((tag) => tag.trim() === '*' || tag.trim().replace(/^W\//, '') === etag)
}
