import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { writeWords } from '../../../core/backdrop/writeWords'
import { wordsOf } from '../../../core/kinds'
import { isTarget } from '../../../core/copy/Words'
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
    <TargetField
      key={words}
      label="Link of the button"
      value={(own ?? document.copy).button.href}
      onCommit={(href) => {
        const action = writeWords(document, own ? words : null, { button: { href } })
        if (action) dispatch(action)
      }}
    />
  )
}

/** Where a link leads. */
export function TargetField({
  label,
  value,
  onCommit,
}: {
  label: string
  value: string
  onCommit: (href: string) => void
}) {
  return (
    <DraftField
      label={label}
      value={value}
      placeholder="#, /page or https://…"
      onCommit={(text) => {
        const target = text.trim()
        if (!isTarget(target)) return 'Start with #, / or https://.'
        onCommit(target)
        return null
      }}
    />
  )
}
