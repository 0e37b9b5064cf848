import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { writeWords } from '../../../core/backdrop/writeWords'
import { wordsOf } from '../../../core/kinds'
import { isTarget } from '../../../core/kinds/Words'
import { useBackdrop } from '../../state/backdropStore'
import { DraftField } from '../../ui/controls'

/** Where a button leads; offered while it is written in. */
export function ButtonTarget({
  document,
  words = null,
}: {
  document: BackdropDocument
  /** The id of the words it belongs to; null for the backdrop's own. */
  words?: number | null
}) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const own = wordsOf(document.base).find(({ id }) => words !== null && id === words)?.words
  return (
    <DraftField
      key={words}
      label="Link of the button"
      value={(own ?? document.copy).button.href}
      placeholder="#, /page or https://…"
      onCommit={(text) => {
        const target = text.trim()
        if (!isTarget(target)) return 'Start with #, / or https://.'
        const action = writeWords(document, own ? words : null, { button: { href: target } })
        if (action) dispatch(action)
        return null
      }}
    />
  )
}
