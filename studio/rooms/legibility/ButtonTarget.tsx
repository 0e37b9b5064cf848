import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { useBackdrop } from '../../state/backdropStore'
import { DraftField } from '../../ui/controls'

/** Where the button leads; offered while the button is written in. */
export function ButtonTarget({ document }: { document: BackdropDocument }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  return (
    <DraftField
      label="Link of the button"
      value={document.copy.button.href}
      placeholder="#, /page or https://…"
      onCommit={(text) => {
        if (!/^(#|\/|\.\/|https?:\/\/|mailto:|tel:)|^$/i.test(text.trim()))
          return 'Start with #, / or https://.'
        dispatch({ type: 'copy/button', button: { href: text.trim() } })
        return null
      }}
    />
  )
}
