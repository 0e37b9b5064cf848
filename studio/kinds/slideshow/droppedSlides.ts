import { create } from 'zustand'
import type { SlideshowAction } from '../../../core/kinds/slideshow/reduceSlideshow'
import { useNotices } from '../../state/noticeStore'
import { useUploads, type UploadItem } from '../../state/uploadStore'

interface DroppedState {
  /** Uploads that become slides, in the order in which they were dropped. */
  readonly waiting: readonly string[]
  /** The image of each that is on the shelf; null for a clip. */
  readonly arrived: ReadonlyMap<string, string | null>
  /** Sends files to the shelf; they become slides of the backdrop on screen. */
  drop(projectId: string, files: readonly File[], maxBytes: number): void
  clear(): void
}

/** Files that were dropped onto the slides of the backdrop on screen. */
export const useDroppedSlides = create<DroppedState>((set) => ({
  waiting: [],
  arrived: new Map(),
  drop(projectId, files, maxBytes) {
    const ids = useUploads.getState().add(projectId, files, maxBytes)
    set(({ waiting }) => ({ waiting: [...waiting, ...ids] }))
  },
  clear: () => set({ waiting: [], arrived: new Map() }),
}))

/** States in which an upload may still end by itself. */
const UNDER_WAY: readonly UploadItem['state'][] = ['reading', 'sending', 'waiting', 'checking']

/**
 * Follows the uploads: once none is under way, those that are images become slides, all in one
 * step. One that failed may be tried again, and follows then. Returns how to stop.
 */
export function followDropped(
  room: () => number,
  dispatch: (action: SlideshowAction) => void,
): () => void {
  const look = ({ items }: { readonly items: readonly UploadItem[] }): void => {
    const { waiting, arrived } = useDroppedSlides.getState()
    if (waiting.length === 0) return
    const found = new Map(items.map((item) => [item.id, item]))
    // A finished upload is soon taken off the list.
    const now = new Map(arrived)
    for (const id of waiting) {
      const item = found.get(id)
      if (item?.state === 'done') now.set(id, item.facts?.kind === 'image' ? item.sourceId : null)
    }
    const stateOf = (id: string): UploadItem['state'] | undefined => found.get(id)?.state
    if (waiting.some((id) => UNDER_WAY.includes(stateOf(id)!)))
      return useDroppedSlides.setState({ arrived: now })
    useDroppedSlides.setState({
      waiting: waiting.filter((id) => stateOf(id) === 'failed'),
      arrived: new Map(),
    })
    const sourceIds = waiting.flatMap((id) => now.get(id) ?? [])
    const left = room()
    if (sourceIds.length > left)
      useNotices
        .getState()
        .tell(
          `${sourceIds.length} images are on the shelf; only the first ${left} became slides, more are not possible.`,
        )
    if (sourceIds.length > 0 && left > 0) dispatch({ type: 'slides/add', sourceIds })
    if ([...now.values()].includes(null))
      useNotices.getState().tell('A clip cannot be a slide. It is on the shelf.')
  }
  const stop = useUploads.subscribe(look)
  return () => {
    stop()
    useDroppedSlides.getState().clear()
  }
}
