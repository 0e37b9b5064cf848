import DOMPurify from 'dompurify'
import type { Size } from '../../core/fit/cover'
import { readSvg } from '../../core/media/image/readSvg'
import { fileSource } from './sources'
import { WorkError } from './WorkError'

/*
 * A drawing becomes part of a site: scripts, links, metadata and references to other files are
 * taken out of it first. (As an image it could run and load nothing, but nobody can keep a site
 * from putting it in its markup, or visitors from opening it by itself.)
 */

/** References that stay within the file. */
const INNER = /^(#|data:image\/(png|jpeg|gif|webp);base64,)/i
const REFERENCES = ['href', 'xlink:href', 'src']

/** CSS without references to other files; none at all where escapes could hide one. */
function cleanCss(css: string): string {
  if (css.includes('\\')) return ''
  return css
    .replace(/@import[^;]*(;|$)/gi, '')
    .replace(/url\(\s*(["']?)(.*?)\1\s*\)/gi, (whole, _quote: string, url: string) =>
      INNER.test(url) ? whole : 'none',
    )
}

/** What the purifier leaves, without references to other files. */
function cleanElement(element: Element): void {
  for (const name of REFERENCES) {
    const value = element.getAttribute(name)
    if (value !== null && !INNER.test(value.trim())) element.removeAttribute(name)
  }
  for (const { name, value } of [...element.attributes])
    if (/url\(|\\/i.test(value)) element.setAttribute(name, cleanCss(value))
  if (element.nodeName.toLowerCase() === 'style')
    element.textContent = cleanCss(element.textContent ?? '')
}

/** One of its own for every drawing: hooks stay with it. Only pages have what it needs. */
function newPurifier(): typeof DOMPurify {
  const purifier = DOMPurify(window)
  purifier.addHook('afterSanitizeAttributes', cleanElement)
  return purifier
}

/**
 * A drawing without anything that runs, loads or tells who made it, as large in pixels as it is
 * whole when `part` of it has this size. Needs a page. Errors: `work/decode-failed`.
 */
export async function cleanVector(file: Blob, size: Size, part: Size | null): Promise<Blob> {
  const { displayWidth, displayHeight } = await readSvg(fileSource(file))
  const root = newPurifier()
    .sanitize(await file.text(), {
      USE_PROFILES: { svg: true, svgFilters: true },
      ADD_TAGS: ['use'],
      FORBID_TAGS: ['a', 'title', 'desc', 'metadata'],
      ADD_FORBID_CONTENTS: ['metadata'],
      // Names of parts are references here (`url(#body)`), and no page is there to be confused.
      SANITIZE_DOM: false,
      RETURN_DOM: true,
    })
    .querySelector('svg')
  if (!root)
    throw new WorkError(
      'work/decode-failed',
      'The drawing is not well formed. Export it again as SVG, or as PNG.',
    )
  if (!root.hasAttribute('viewBox'))
    root.setAttribute('viewBox', `0 0 ${displayWidth} ${displayHeight}`)
  root.setAttribute('width', String(Math.round(size.width / (part?.width ?? 1))))
  root.setAttribute('height', String(Math.round(size.height / (part?.height ?? 1))))
  return new Blob([new XMLSerializer().serializeToString(root)], { type: 'image/svg+xml' })
}
