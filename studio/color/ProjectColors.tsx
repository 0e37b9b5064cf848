import { useMemo, type ReactNode } from 'react'
import { messageOf } from '../api/client'
import { changeSettings, useSettings } from '../api/queries'
import { useNotices } from '../state/noticeStore'
import { SavedColorsContext, type SavedColors } from './savedColors'

/** Offers the colours of a project to all fields within. */
export function ProjectColors({
  projectId,
  children,
}: {
  readonly projectId: string
  readonly children: ReactNode
}) {
  const { colors, typefaces } = useSettings(projectId)
  const tell = useNotices((state) => state.tell)
  const saved = useMemo(
    (): SavedColors => ({
      colors,
      typefaces,
      save: async (name, color) => {
        try {
          const saveBrand = { colors: [{ name, color, isLocked: false }], typefaces: [] }
          await changeSettings(projectId, { saveBrand })
          return true
        } catch (error) {
          tell(`The colour could not be saved. ${messageOf(error)}`)
          return false
        }
      },
    }),
    [projectId, colors, typefaces, tell],
  )
  return <SavedColorsContext value={saved}>{children}</SavedColorsContext>
}
