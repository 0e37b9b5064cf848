import { Link } from 'react-router'
import type { ImageBase } from '../../../core/kinds/image/Image'
import { coverRect, regionHeightPx } from '../../../core/fit/cover'
import { focalOn } from '../../../core/fit/focal'
import { SCREENS, SCREEN_CLASSES } from '../../../core/fit/screens'
import { describeFinding } from '../../../core/material/describeFinding'
import { useImages, useSettings } from '../../api/queries'
import type { BenchProps } from '../../rooms/Room'
import { SourceChoice } from '../../shelf/SourceChoice'
import { useBackdrop } from '../../state/backdropStore'
import { ColorField } from '../../color/ColorField'
import { Choice, Group, Note, NumberField, Slider, StandingMark } from '../../ui/controls'
import type { DocumentOf } from '../../../core/backdrop/BackdropDocument'
import { BaseGroup } from '../BaseGroup'
import { imageOf } from './imageOf'

type Props = Omit<BenchProps, 'document'> & { readonly document: DocumentOf<'image'> }

/** The image, how it lies in the region, and what is behind it. */
export function ImageMaterialBench({ document, sources, projectId }: Props) {
  const { data: images = [] } = useImages(projectId)
  const dispatch = useBackdrop((state) => state.dispatch)
  const { base } = document
  return (
    <>
      <Findings document={document} sources={sources} projectId={projectId} />
      <Group
        title="Image"
        aside={
          <Link className="underline" to={`/projects/${projectId}/shelf`}>
            Add images on the shelf
          </Link>
        }
      >
        <SourceChoice
          label="Image"
          sources={images}
          chosen={base.material.sourceId}
          onChoose={(sourceId) => dispatch({ type: 'image/swap', sourceId })}
        />
      </Group>
      <PlacingGroup base={base} />
      <BaseGroup document={document} projectId={projectId} />
    </>
  )
}

/** What was found wrong with the image, where it is chosen. */
function Findings({
  document,
  sources,
  projectId,
}: Pick<Props, 'document' | 'sources' | 'projectId'>) {
  const source = imageOf(document, sources)
  const found = source?.findings ?? []
  const enlarged = useEnlarged(document, sources, projectId)
  return (
    <Group
      title="On this image"
      aside={
        <Link
          className="underline"
          to={`/projects/${projectId}/sources/${document.base.material.sourceId}`}
        >
          Open image
        </Link>
      }
    >
      {found.length === 0 && enlarged.length === 0 && (
        <p className="flex items-center gap-2">
          <StandingMark standing="settled" />
          No problems found
        </p>
      )}
      {found.map((finding, at) => {
        const { title, meaning, advice } = describeFinding(finding)
        return (
          <Note key={at} tone={TONES[finding.weight]}>
            <b className="font-semibold">{title}.</b> {meaning} {advice}
          </Note>
        )
      })}
      {enlarged.map(({ label, times, neededPx }) => (
        <Note key={label} tone={times > MAX_SOFT ? 'look' : 'plain'}>
          <b className="font-semibold">Too small for {label.toLowerCase()} screens.</b> It is
          enlarged {times.toFixed(2)} times there; {neededPx} px would be sharp.
        </Note>
      ))}
    </Group>
  )
}

const TONES = { fix: 'fix', look: 'look', note: 'plain' } as const
/** Enlarged further than this, an image is seen to be soft. */
const MAX_SOFT = 1.25

/** The screens that the image must be enlarged for, where it covers the region. */
function useEnlarged(
  document: Props['document'],
  sources: Props['sources'],
  projectId: string,
): { label: string; times: number; neededPx: number }[] {
  const { screens } = useSettings(projectId)
  const source = imageOf(document, sources)
  if (!source || source.facts.format === 'svg' || document.base.placing !== 'cover') return []
  const picture = { width: source.facts.displayWidth, height: source.facts.displayHeight }
  return SCREEN_CLASSES.flatMap((each) => {
    const window = screens[each]
    const height =
      document.base.scrolling === 'fixed'
        ? window.height
        : regionHeightPx(document.fit.height, window.height)
    const { scale } = coverRect(
      picture,
      { width: window.width, height },
      focalOn(document.fit, each),
    )
    return scale > 1.01
      ? [{ label: SCREENS[each].label, times: scale, neededPx: Math.ceil(picture.width * scale) }]
      : []
  })
}

/** How the image lies in the region. */
function PlacingGroup({ base }: { base: ImageBase }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const set = (
    image: Partial<Omit<ImageBase, 'kind' | 'material'>>,
    gesture: string | null = null,
  ): void => dispatch({ type: 'image/set', image }, gesture)
  return (
    <Group title="Placing">
      <Choice
        label="Placing"
        hideLabel
        value={base.placing}
        onChange={(placing) => set({ placing })}
        options={[
          { value: 'cover', label: 'Cover', note: 'fills the region' },
          { value: 'contain', label: 'Contain', note: 'shown whole' },
          { value: 'tile', label: 'Tile', note: 'repeated' },
        ]}
      />
      {base.placing === 'tile' && (
        <NumberField
          label="Width of a tile"
          value={base.tileWidth}
          low={16}
          high={2000}
          suffix="px"
          onChange={(tileWidth) => set({ tileWidth })}
        />
      )}
      <Choice
        label="While the page scrolls"
        value={base.scrolling}
        onChange={(scrolling) => set({ scrolling })}
        options={[
          { value: 'page', label: 'Moves with the page' },
          { value: 'fixed', label: 'Stays in place', note: 'the page passes over it' },
        ]}
      />
      <ColorField
        label="Colour behind the image"
        value={base.background}
        onChange={(background, gesture) => set({ background }, gesture)}
      />
      <Slider
        label="Opacity of the image"
        value={base.opacity}
        low={0}
        high={1}
        step={0.01}
        shown={`${Math.round(base.opacity * 100)} %`}
        onChange={(opacity, gesture) => set({ opacity }, gesture)}
      />
      <p className="text-xs text-muted">
        The colour also fills transparent parts, and is what visitors see until the image has
        loaded.
      </p>
    </Group>
  )
}
