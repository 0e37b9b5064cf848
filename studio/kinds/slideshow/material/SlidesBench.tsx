import { Plus, RefreshCw } from 'lucide-react'
import { useState, type ReactNode } from 'react'
import { Link } from 'react-router'
import type { DocumentOf } from '../../../../core/backdrop/BackdropDocument'
import { SLIDE_COUNT } from '../../../../core/kinds/slideshow/Slideshow'
import { describeSlideFinding } from '../../../../core/kinds/slideshow/slideFindings'
import { useConfig, useSets, useSettings } from '../../../api/queries'
import type { BenchProps } from '../../../rooms/Room'
import { Uploads } from '../../../shelf/Uploads'
import { useBackdrop } from '../../../state/backdropStore'
import { useUploads } from '../../../state/uploadStore'
import { AskDialog } from '../../../ui/AskDialog'
import { Button, Group, Note, StandingMark } from '../../../ui/controls'
import { DropArea } from '../../../ui/DropArea'
import { BaseGroup } from '../../BaseGroup'
import { NO_SLIDES, SlidePicker } from '../SlidePicker'
import { useDroppedSlides } from '../droppedSlides'
import { findingsOf } from '../slidesOf'
import { useSlideView } from '../slideView'
import { SlideGroup } from './SlideGroup'
import { SlideList } from './SlideList'

type Props = Omit<BenchProps, 'document'> & { readonly document: DocumentOf<'slideshow'> }

/** The slides, in their order, and what is decided of each. */
export function SlidesBench({ document, sources, projectId }: Props) {
  const selected = useSlideView((state) => state.selected)
  const slide = document.base.slides.find(({ id }) => id === selected)
  return (
    <>
      <Findings document={document} sources={sources} projectId={projectId} />
      <Dropping projectId={projectId}>
        <Group
          title="Slides"
          aside={`${document.base.slides.length} of at most ${SLIDE_COUNT.max}`}
        >
          <SlideList document={document} sources={sources} />
          <Adding document={document} projectId={projectId} />
        </Group>
      </Dropping>
      {slide ? (
        <SlideGroup document={document} slide={slide} />
      ) : (
        <Group title="One slide">
          <p className="text-muted">
            Choose a slide above to set its placing, focal point, opacity, pan and copy.
          </p>
        </Group>
      )}
      <BaseGroup document={document} projectId={projectId} />
    </>
  )
}

/** Images that are dropped onto the slides: they go to the shelf, and become slides. */
function Dropping({ projectId, children }: { projectId: string; children: ReactNode }) {
  const { data: config } = useConfig()
  const waiting = useDroppedSlides((state) => state.waiting)
  const drop = useDroppedSlides((state) => state.drop)
  const items = useUploads((state) => state.items)
  const own = items.filter(({ id }) => waiting.includes(id))
  return (
    <DropArea
      label="Drop images here: they go to the shelf, and become slides"
      className=""
      onFiles={(files) => config && drop(projectId, [...files], config.maxUploadBytes)}
    >
      {children}
      <Uploads items={own} resting={[]} onPick={() => undefined} onGone={() => undefined} />
    </DropArea>
  )
}

function Findings({
  document,
  sources,
  projectId,
}: Pick<Props, 'document' | 'sources' | 'projectId'>) {
  const { screens } = useSettings(projectId)
  const set = useSlideView((state) => state.set)
  const found = findingsOf(document, sources, screens.wide)
  return (
    <Group
      title="On these slides"
      aside={
        <Link className="underline" to={`/projects/${projectId}/shelf`}>
          Open the shelf
        </Link>
      }
    >
      {found.length === 0 && (
        <p className="flex items-center gap-2">
          <StandingMark standing="settled" />
          No problems found
        </p>
      )}
      {found.map((finding) => {
        const { title, advice } = describeSlideFinding(finding)
        return (
          <Note
            key={`${finding.slide}${finding.code}`}
            tone={finding.weight === 'look' ? 'look' : 'plain'}
          >
            <button
              type="button"
              className="font-semibold underline"
              onClick={() => set({ selected: document.base.slides[finding.slide]!.id })}
            >
              Slide {finding.slide + 1}
            </button>
            <b className="font-semibold">: {title}.</b> {advice}
          </Note>
        )
      })}
    </Group>
  )
}

/** Adds images of the shelf, and takes over what has changed in the set. */
function Adding({ document: { base }, projectId }: Pick<Props, 'document' | 'projectId'>) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { data: sets = [] } = useSets(projectId)
  const [asking, setAsking] = useState(false)
  const [picked, setPicked] = useState(NO_SLIDES)
  const set = sets.find(({ id }) => id === base.setId)
  const isChanged =
    set !== undefined &&
    set.sourceIds.length >= SLIDE_COUNT.min &&
    set.sourceIds.join() !== base.slides.map(({ sourceId }) => sourceId).join()
  const room = SLIDE_COUNT.max - base.slides.length
  return (
    <>
      {isChanged && (
        <Note tone="look">
          The set <b className="font-semibold">{set.name}</b> on the shelf now has other images, or
          another order.{' '}
          <Button
            onClick={() =>
              dispatch({ type: 'slides/take', sourceIds: set.sourceIds, setId: set.id })
            }
          >
            <RefreshCw className="size-3.5" aria-hidden />
            Take over the set
          </Button>
        </Note>
      )}
      <Button disabled={room === 0} onClick={() => setAsking(true)}>
        <Plus className="size-4" aria-hidden />
        Add slides …
      </Button>
      <p className="text-xs text-muted">From the shelf; or drop images here from your disk.</p>
      {asking && (
        <AskDialog
          title="Add slides"
          action={picked.sourceIds.length === 0 ? 'Add' : `Add ${picked.sourceIds.length}`}
          wide
          disabled={picked.sourceIds.length === 0}
          onClose={() => {
            setAsking(false)
            setPicked(NO_SLIDES)
          }}
          onAct={() => {
            dispatch({ type: 'slides/add', sourceIds: picked.sourceIds })
            return Promise.resolve()
          }}
        >
          <SlidePicker
            projectId={projectId}
            picked={picked}
            most={room}
            withSets={false}
            onPick={setPicked}
          />
        </AskDialog>
      )}
    </>
  )
}
