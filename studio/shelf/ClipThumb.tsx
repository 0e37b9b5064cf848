import { useRef } from 'react'
import type { Source } from '../../core/api/wire'
import { mediaUrl } from '../api/client'

const TYPES = { mp4: 'video/mp4', mov: 'video/mp4', webm: 'video/webm', mkv: 'video/webm' } as const

/** A small picture of a clip that plays while the pointer or the keyboard is on it. */
export function ClipThumb({ source, className = '' }: { source: Source; className?: string }) {
  const video = useRef<HTMLVideoElement>(null)
  // A moment into the clip: the first frame of footage is often black.
  const start = Math.min(2, source.facts.durationMs / 3000)
  return (
    <video
      ref={video} aria-hidden tabIndex={-1} muted loop playsInline preload="metadata" src={`${mediaUrl(source.sha256, TYPES[source.facts.container])}#t=${start}`}
      className={`bg-ink object-cover ${className}`}
      onPointerEnter={() => void video.current?.play().catch(() => undefined)}
      onPointerLeave={() => video.current?.pause()}
    />
  )
}
