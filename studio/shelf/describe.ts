import type { SourceCard } from '../../core/api/wire'
import { cutText, MAX_NAME_CHARS } from '../../core/bounded'
import type { Finding } from '../../core/material/findings'
import { sourceFps } from '../../core/media/probe'
import type { Standing } from '../ui/controls'
import { formatBytes, formatFps } from '../ui/format'

/**
 * A name for a backdrop from a clip's file name: `night-train.mp4` gives "Night train". Never empty
 * and never longer than names may be.
 */
export function nameFromFile(fileName: string): string {
  const plain = fileName
    .replace(/\.[^.]*$/, '')
    .replaceAll(/[-_\s]+/g, ' ')
    .trim()
  const words = cutText(plain, MAX_NAME_CHARS).trim()
  return words === '' ? 'Backdrop' : words.charAt(0).toUpperCase() + words.slice(1)
}

const FORMATS = {
  jpeg: 'JPEG',
  png: 'PNG',
  webp: 'WebP',
  avif: 'AVIF',
  gif: 'GIF',
  svg: 'SVG',
} as const
const PERSONAL = {
  location: 'where it was taken',
  device: 'which device made it',
  author: 'who made it',
  date: 'when it was made',
} as const

/** A source's facts in two short lines. */
export function factLines({ facts }: Pick<SourceCard, 'facts'>): [string, string] {
  if (facts.kind === 'image') {
    const depth = facts.bitDepth > 0 ? `${facts.bitDepth} bit` : 'vector'
    return [
      `${facts.displayWidth} × ${facts.displayHeight} · ${FORMATS[facts.format]}`,
      `${formatBytes(facts.bytes)} · ${depth} · ${facts.profile ?? 'sRGB'}`,
    ]
  }
  const { video } = facts
  return [
    `${video.displayWidth} × ${video.displayHeight} · ${(facts.durationMs / 1000).toFixed(1)} s · ${formatFps(sourceFps(video))} fps`,
    `${video.codecName} · ${formatBytes(facts.bytes)} · ${facts.audio ? 'with sound' : 'silent'}`,
  ]
}

/** What the metadata contains, as a list in words. */
export function personalWords({ facts }: Pick<SourceCard, 'facts'>): string {
  return facts.personal.map((kind) => PERSONAL[kind]).join(', ')
}

/** The state of a source: its most serious finding; "measuring" until its frames are measured. */
export function standingOf(findings: readonly Finding[], measured: boolean): Standing {
  if (findings.some((finding) => finding.weight === 'fix')) return 'fix'
  if (findings.some((finding) => finding.weight === 'look')) return 'look'
  return measured ? 'settled' : 'busy'
}
