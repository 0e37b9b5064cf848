import { useState } from 'react'
import { baseOf } from '../../core/api/baseOf'
import type { BackdropDocument } from '../../core/backdrop/BackdropDocument'
import { createSlideshow } from '../../core/kinds/slideshow/Slideshow'
import { api } from '../api/client'
import { useBackdrop } from '../state/backdropStore'
import { AskDialog } from '../ui/AskDialog'
import { BaseChoice, isComplete, type ChosenBase } from './BaseChoice'
import { NO_SLIDES } from './slideshow/SlidePicker'

/** Asks for another base of the backdrop on screen. */
export function ChangeBase({
  document,
  projectId,
  onClose,
}: {
  document: BackdropDocument
  projectId: string
  onClose: () => void
}) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const [chosen, setChosen] = useState<ChosenBase>({
    kind: document.base.kind,
    source: null,
    slides: NO_SLIDES,
  })
  const isOther = chosen.kind !== document.base.kind
  return (
    <AskDialog
      title="Change the base"
      action={isOther ? 'Use this base' : 'Keep the present base'}
      wide
      disabled={isOther && !isComplete(chosen)}
      onClose={onClose}
      onAct={async () => {
        if (!isOther) return
        const { source, slides } = chosen
        if (chosen.kind === 'slideshow') {
          dispatch({ type: 'base/set', base: createSlideshow(slides.sourceIds, slides.setId) })
          return
        }
        // Its measurements say where a clip is free of cards and cuts; a card does not have them.
        const base = baseOf(source && (await api.readSource(source.id)))
        dispatch({ type: 'base/set', base })
      }}
    >
      <BaseChoice projectId={projectId} chosen={chosen} onChoose={setChosen} />
      {!isOther && (
        <p className="text-muted">
          This is the present base. What it is made from is changed under Material.
        </p>
      )}
    </AskDialog>
  )
}
