import type { FootageDocument } from '../FootageDocument'
import { useBackdrop } from '../../../state/backdropStore'
import { ColorField } from '../../../color/ColorField'

/** The colour that fills transparent parts of clip and poster. */
export function MatteField({ document }: { document: FootageDocument }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  return (
    <ColorField
      label="Fills transparent parts"
      value={document.base.picture.matte}
      onChange={(matte, gesture) => dispatch({ type: 'picture/set', picture: { matte } }, gesture)}
    />
  )
}
