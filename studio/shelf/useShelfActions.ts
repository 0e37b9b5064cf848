import type { SourceCard, ImageSet } from '../../core/api/wire'
import { api, messageOf } from '../api/client'
import { shelfChanged } from '../api/queries'
import { useNotices } from '../state/noticeStore'

export interface ShelfActions {
  /** Takes sources off the shelf; undo brings them back. Resolves to whether it was done. */
  remove(sources: readonly SourceCard[]): Promise<boolean>
  /** Puts the images of a set in another order, or leaves some out. */
  reorder(set: ImageSet, sourceIds: readonly string[]): Promise<void>
  putInto(set: ImageSet, images: readonly SourceCard[]): Promise<boolean>
  deleteSet(set: ImageSet): Promise<boolean>
}

/** What is done to a shelf, each with its notice, its undo, and its error where it is not done. */
export function useShelfActions(projectId: string): ShelfActions {
  const tell = useNotices((state) => state.tell)
  const changed = (): Promise<void> => shelfChanged(projectId)
  /** Runs an action; reports errors, and shows the shelf as it is afterwards. */
  const carryOut = async (
    action: () => Promise<void>,
    wordFailure: (error: unknown) => string = messageOf,
  ): Promise<boolean> => {
    try {
      await action()
      return true
    } catch (error) {
      tell(wordFailure(error))
      return false
    } finally {
      await changed()
    }
  }
  return {
    remove: (sources) => {
      const ids = sources.map((source) => source.id)
      const users = [...new Set(sources.flatMap((source) => source.usedBy))]
      const told =
        sources.length === 1
          ? `${sources[0]!.name} was taken off the shelf.`
          : `${sources.length} sources were taken off the shelf.`
      return carryOut(
        async () => {
          await api.deleteSources(ids)
          tell(told, () => api.restoreSources(ids).then(changed))
        },
        (error) =>
          users.length > 0
            ? `Used by ${users.join(', ')}: replace the clip there first. Nothing was taken off.`
            : messageOf(error),
      )
    },
    reorder: async (set, sourceIds) => {
      await carryOut(
        async () => {
          await api.saveSet(set.id, { name: set.name, sourceIds })
          tell(`${set.name} has its new order.`, () => api.saveSet(set.id, set).then(changed))
        },
        (error) => `${set.name} keeps its order: ${messageOf(error)}`,
      )
    },
    putInto: (set, images) =>
      carryOut(async () => {
        await api.saveSet(set.id, {
          name: set.name,
          sourceIds: [...set.sourceIds, ...images.map((image) => image.id)],
        })
        const what = images.length === 1 ? images[0]!.name : `${images.length} images`
        tell(`${what} put into ${set.name}.`, () => api.saveSet(set.id, set).then(changed))
      }),
    deleteSet: (set) =>
      carryOut(async () => {
        await api.deleteSet(set.id)
        tell(`${set.name} was deleted; its images stay on the shelf.`, () =>
          api.createSet(set.projectId, set).then(changed),
        )
      }),
  }
}
