import type { ByteSource } from '../../bytes/ByteSource'
import { ContainerError } from '../../bytes/ContainerError'
import type { ImageFile } from './ImageFile'

const HEAD_BYTES = 256 * 1024
/** CSS pixels in a unit. Source: CSS Values and Units Level 4, clause 6.2. */
const UNITS: Readonly<Record<string, number>> = {
  '': 1,
  px: 1,
  in: 96,
  cm: 96 / 2.54,
  mm: 96 / 25.4,
  pt: 96 / 72,
  pc: 16,
}
/** What an SVG without any size is given by browsers. */
const DEFAULT_SIZE = { width: 300, height: 150 }

/** Whether a file's first bytes are those of an SVG: text whose root element is `svg`. */
export function looksLikeSvg(head: Uint8Array): boolean {
  const text = new TextDecoder()
    .decode(head)
    .replace(/^\ufeff/, '')
    .trimStart()
  return (
    text.startsWith('<') &&
    /^(<\?xml[^>]*>\s*|<!--[\s\S]*?-->\s*|<!DOCTYPE[^>]*>\s*)*<svg[\s>]/i.test(text)
  )
}

/**
 * Reads an SVG's root element: its own size, or that of its view box. Errors: `media/bad-value`.
 */
export async function readSvg(source: ByteSource): Promise<ImageFile> {
  const text = new TextDecoder().decode(await source.read(0, Math.min(source.size, HEAD_BYTES)))
  const root = /<svg\b[^>]*>/i.exec(text)?.[0]
  if (!root) throw new ContainerError('media/bad-value', { subject: 'SVG root' })
  const attribute = (name: string): string | null =>
    new RegExp(`\\s${name}\\s*=\\s*["']([^"']*)["']`, 'i').exec(root)?.[1] ?? null
  const box = (attribute('viewBox') ?? '')
    .trim()
    .split(/[\s,]+/)
    .map(Number)
  const [boxWidth, boxHeight] =
    box.length === 4 && box[2]! > 0 && box[3]! > 0 ? [box[2]!, box[3]!] : [null, null]
  const ratio = boxWidth && boxHeight ? boxWidth / boxHeight : null
  let width = lengthOf(attribute('width'))
  let height = lengthOf(attribute('height'))
  if (width && !height) height = ratio ? width / ratio : DEFAULT_SIZE.height
  if (height && !width) width = ratio ? height * ratio : DEFAULT_SIZE.width
  const size = {
    width: Math.max(1, Math.round(width ?? boxWidth ?? DEFAULT_SIZE.width)),
    height: Math.max(1, Math.round(height ?? boxHeight ?? DEFAULT_SIZE.height)),
  }
  return {
    format: 'svg',
    bytes: source.size,
    ...size,
    orientation: 1,
    displayWidth: size.width,
    displayHeight: size.height,
    bitDepth: 0,
    alpha: true,
    profile: null,
    progressive: false,
    animated: /<(animate|animateTransform|animateMotion|set)\b|@keyframes/i.test(text),
    personal: /<dc:creator|<metadata/i.test(text) ? ['author'] : [],
  }
}

function lengthOf(text: string | null): number | null {
  const parts = /^\s*([\d.]+(?:e[+-]?\d+)?)\s*([a-z]*)\s*$/i.exec(text ?? '')
  const unit = parts ? UNITS[parts[2]!.toLowerCase()] : undefined
  const value = parts && unit !== undefined ? Number(parts[1]) * unit : NaN
  return Number.isFinite(value) && value > 0 ? value : null
}
