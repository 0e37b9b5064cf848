import { Radio, RadioGroup } from '@headlessui/react'
import type { SlidesOrder, SourceCard } from '../../core/api/wire'
import { KIND_NAMES, type KindName } from '../../core/kinds'
import { SLIDE_COUNT } from '../../core/kinds/slideshow/Slideshow'
import { useClips, useImages } from '../api/queries'
import { SourceThumb } from '../clip/SourceThumb'
import { SourceChoice } from '../shelf/SourceChoice'
import { KIND_WORDS } from './kindWords'
import { NO_SLIDES, SlidePicker } from './slideshow/SlidePicker'

/** What a backdrop is made from: a kind, and its material where it needs one. */
export interface ChosenBase {
  readonly kind: KindName
  readonly source: SourceCard | null
  /** The images of a slideshow. */
  readonly slides: SlidesOrder
}

/** What a kind begins with, of what lies on the shelf. */
const firstOf = (kind: KindName, sources: readonly SourceCard[] | null): ChosenBase => ({
  kind,
  source: kind === 'slideshow' ? null : (sources?.[0] ?? null),
  slides: NO_SLIDES,
})

/** The sources that are material for each kind; null where it needs none. */
function useMaterial(projectId: string): Readonly<Record<KindName, readonly SourceCard[] | null>> {
  const { data: clips = [] } = useClips(projectId)
  const { data: images = [] } = useImages(projectId)
  return { footage: clips, slideshow: images, image: images, paint: null }
}

/** Asks for the base first, each as a small moving example, then for its material. */
export function BaseChoice({
  projectId,
  chosen,
  onChoose,
}: {
  projectId: string
  chosen: ChosenBase
  onChoose: (base: ChosenBase) => void
}) {
  const material = useMaterial(projectId)
  const sources = material[chosen.kind]
  return (
    <>
      <RadioGroup
        value={chosen.kind}
        onChange={(kind) => onChoose(firstOf(kind, material[kind]))}
        aria-label="Base"
        className="grid grid-cols-2 gap-2 sm:grid-cols-4"
      >
        {KIND_NAMES.map((kind) => (
          <Radio
            key={kind}
            value={kind}
            className="cursor-pointer overflow-hidden rounded border border-line bg-white data-checked:border-curtain data-checked:ring-1 data-checked:ring-curtain data-focus:outline-2 data-focus:outline-offset-2 data-focus:outline-curtain"
          >
            <Example kind={kind} sources={material[kind] ?? []} />
            <span className="block px-2.5 py-1.5">
              <span className="block font-medium">{KIND_WORDS[kind].label}</span>
              <span className="block text-xs text-muted">{KIND_WORDS[kind].note}</span>
            </span>
          </Radio>
        ))}
      </RadioGroup>
      {chosen.kind === 'slideshow' && (
        <SlidePicker
          projectId={projectId}
          picked={chosen.slides}
          onPick={(slides) => onChoose({ ...chosen, slides })}
        />
      )}
      {chosen.kind !== 'slideshow' && sources && sources.length > 0 && (
        <SourceChoice
          label={chosen.kind === 'footage' ? 'Clip' : 'Image'}
          sources={sources}
          chosen={chosen.source?.id ?? null}
          onChoose={(id) =>
            onChoose({ ...chosen, source: sources.find((each) => each.id === id)! })
          }
        />
      )}
      {chosen.kind !== 'slideshow' && sources?.length === 0 && (
        <p className="text-muted">
          There is no {chosen.kind === 'footage' ? 'clip' : 'image'} on the shelf yet. Add one there
          first, or choose a paint, which needs none.
        </p>
      )}
      {chosen.kind === 'paint' && (
        <p className="text-muted">It begins with a gradient, which you change in the workbench.</p>
      )}
    </>
  )
}

/** Whether everything is chosen that the base needs. */
export const isComplete = ({ kind, source, slides }: ChosenBase): boolean =>
  kind === 'paint' ||
  (kind === 'slideshow' ? slides.sourceIds.length >= SLIDE_COUNT.min : source !== null)

/** A kind as a small moving example, of what lies on the shelf where something does. */
function Example({ kind, sources }: { kind: KindName; sources: readonly SourceCard[] }) {
  // Of what is not measured yet there may be no picture.
  const source = sources.find(({ strip }) => strip !== null)
  return (
    <span
      aria-hidden
      className="[container-type:size] relative block aspect-video overflow-hidden bg-ink"
    >
      {kind === 'slideshow' && sources.length > 1 ? (
        sources.slice(0, 2).map((each, index) => (
          <span
            key={each.id}
            className={`[container-type:size] absolute inset-0 ${index === 1 ? 'example-fade' : ''}`}
          >
            <SourceThumb source={each} className="size-full" />
          </span>
        ))
      ) : kind === 'paint' ? (
        <span className="example-paint absolute -inset-1/2" />
      ) : source ? (
        <span
          className={`[container-type:size] absolute inset-0 ${kind === 'image' ? 'example-pan' : ''}`}
        >
          <SourceThumb source={source} className="size-full" playing={kind === 'footage'} />
        </span>
      ) : (
        <span className="example-empty absolute inset-0" />
      )}
      <span className="absolute bottom-2 left-2 flex flex-col gap-1">
        <span className="block h-1.5 w-14 rounded-full bg-white/90" />
        <span className="block h-1.5 w-9 rounded-full bg-white/70" />
      </span>
    </span>
  )
}
