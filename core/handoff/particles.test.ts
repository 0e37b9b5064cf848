import { describe, expect, it } from 'vitest'
import type { BackdropDocument } from '../backdrop/BackdropDocument'
import { createImage } from '../kinds/image/Image'
import type { DeliveredMedia } from '../kinds/DeliveredMedia'
import { newParticles, type Particles } from '../particles/Particles'
import { styleOf } from '../particles/styles'
import { inventBackdrop, SAMPLE_SOURCE_ID } from '../testing/samples'
import { emitHandoff } from './emitHandoff'
import type { HandoffFigures } from './HandoffInput'
import { manifestSchema } from './manifest'

const CLIP = {
  screenClass: 'wide',
  family: 'h264',
  container: 'mp4',
  url: 'media/clip.mp4',
  codec: 'avc1.640028',
  width: 1280,
  height: 720,
  bytes: 400_000,
} as const
const COST = {
  width: 1280,
  height: 720,
  runs: [{ factor: 4, asked: 90, drawn: 90, milliseconds: 7.5, framesPerSecond: 30 }],
}
const FIGURES: HandoffFigures = {
  clips: [],
  posters: [],
  particleCost: COST,
}
const MEASURED = {
  repeats: 1,
  seam: null,
  deliveredSeam: null,
  quality: null,
  passes: 1,
  encodeSeconds: 2,
}

/** The folder's files by their paths. */
function folder(particles: Partial<Particles>): (path: string) => string {
  const { definition } = styleOf('ember-drift')!
  const document: BackdropDocument = {
    ...inventBackdrop(),
    base: createImage(SAMPLE_SOURCE_ID),
    particles: { ...newParticles(definition, 'ember-drift'), ...particles },
  }
  const clips = particles.form === 'rendered' ? [CLIP] : []
  const media: DeliveredMedia = { clips, posters: [], placeholder: null }
  const files = emitHandoff({
    id: 'k3f9a2',
    name: 'Embers',
    document,
    media,
    figures: { ...FIGURES, clips: clips.map(() => MEASURED) },
    scripts: {
      forms: { classic: '__TLN_PARTS__', module: '__TLN_PARTS__', element: '__TLN_PARTS__' },
      parts: {
        video: 'v',
        slides: 's',
        moving: 'm',
        words: 'w',
        controls: 'c',
        holds: 'h',
        particles: 'p',
        particleLinks: 'l',
        particlePointer: 'q',
      },
      types: '',
    },
  })
  return (path) => files.find((file) => file.path === path)!.text
}

describe('a folder with particles', () => {
  it('that are drawn live has their script, and what they cost on slowed machines', () => {
    const text = folder({ form: 'live' })
    const { particles, scriptParts, layers } = manifestSchema.parse(
      JSON.parse(text('manifest.json')),
    )
    expect(particles).toMatchObject({ style: 'ember-drift', form: 'live', cost: COST })
    expect(scriptParts).toContain('particles')
    expect(layers.map(({ type }) => type)).toEqual(['image', 'particles', 'scrim'])
    expect(text('README.txt')).toMatch(/tln:fewer/)
    expect(text('README.txt')).not.toMatch(/also need data:/)
  })
  it('that are rendered is that of a clip over its poster', () => {
    const text = folder({ form: 'rendered' })
    const { base, particles, scriptParts, layers, clips } = manifestSchema.parse(
      JSON.parse(text('manifest.json')),
    )
    expect(base.kind).toBe('image')
    expect(particles).toMatchObject({ form: 'rendered', framesPerSecond: 30, cost: null })
    expect(scriptParts).toEqual(['video'])
    expect(layers.map(({ type }) => type)).toEqual(['picture', 'video', 'scrim'])
    expect(clips).toHaveLength(1)
    expect(text('fragment.html')).toMatch(/<video[^>]* loop/)
    expect(text('fragment.html')).not.toMatch(/<canvas/)
    expect(text('README.txt')).not.toMatch(/tln:fewer|tln-image|Particles:/)
  })
  it('that are pictures says what they need', () => {
    const { definition } = styleOf('ember-drift')!
    const shapes = [{ sprite: 'data:image/png;base64,AAAA', weight: 1 }]
    const text = folder({ definition: { ...definition, shapes } })
    expect(text('README.txt')).toMatch(/also need data:/)
  })
})
