import type { DocumentOf } from '../../../../core/backdrop/BackdropDocument'
import { writeWords } from '../../../../core/backdrop/writeWords'
import { WORD_LIMITS, type Words, type WordsChange } from '../../../../core/copy/Words'
import type { Slide } from '../../../../core/kinds/slideshow/Slideshow'
import { ButtonTarget } from '../../../rooms/legibility/ButtonTarget'
import { useBackdrop } from '../../../state/backdropStore'
import { DraftField, Toggle } from '../../../ui/controls'

const FIELDS: readonly {
  readonly label: string
  readonly most: number
  readonly read: (words: Words) => string
  readonly change: (text: string) => WordsChange
}[] = [
  {
    label: 'Heading',
    most: WORD_LIMITS.heading,
    read: ({ heading }) => heading,
    change: (heading) => ({ heading }),
  },
  {
    label: 'Text',
    most: WORD_LIMITS.body,
    read: ({ body }) => body,
    change: (body) => ({ body }),
  },
  {
    label: 'Button',
    most: WORD_LIMITS.label,
    read: ({ button }) => button.label,
    change: (label) => ({ button: { label } }),
  },
]

/** Heading, text and button of a slide, where they are not those of the backdrop. */
export function WordFields({
  document,
  slide: { id, words },
}: {
  document: DocumentOf<'slideshow'>
  slide: Slide
}) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { heading, body, button } = document.copy
  return (
    <>
      <Toggle
        label="Its own copy"
        note={
          words === null
            ? 'Else the heading, text and button of the backdrop.'
            : document.base.delivery === 'clip'
              ? 'Not shown: a clip has the copy of the backdrop throughout.'
              : 'It changes with the slide. Edit it here or on the stage; what is empty is left out.'
        }
        enabled={words !== null}
        onChange={(on) =>
          dispatch({
            type: 'slides/set',
            id,
            slide: { words: on ? { heading, body, button } : null },
          })
        }
      />
      {words &&
        FIELDS.map(({ label, most, read, change }) => (
          <DraftField
            key={`${id}${label}`}
            label={label}
            value={read(words)}
            onCommit={(text) => {
              if (text.trim().length > most) return `At most ${most} characters.`
              const action = writeWords(document, id, change(text.trim()))
              if (action) dispatch(action)
              return null
            }}
          />
        ))}
      {words && document.base.delivery === 'live' && (
        <ButtonTarget document={document} words={id} />
      )}
    </>
  )
}
