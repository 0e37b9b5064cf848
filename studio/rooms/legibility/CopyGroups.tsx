import { useEffect } from 'react'
import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import type { TrialLength } from '../../../core/backdrop/trialCopy'
import {
  FIRST_TYPE,
  PART_LIMITS,
  type CopyParts,
  type CopyType,
} from '../../../core/copy/copyParts'
import { inkOn } from '../../../core/copy/inkOn'
import { parseHex } from '../../../core/picture/srgb'
import { contrastRatio } from '../../../core/scrim/contrast'
import { useBackdrop } from '../../state/backdropStore'
import type { LoadedSources } from '../../state/loadedSources'
import { useStage } from '../../state/stageStore'
import { ColorField, type ContrastOf } from '../../color/ColorField'
import { Button, Choice, Group, Slider, Toggle } from '../../ui/controls'
import { Picker } from '../../ui/Picker'
import { useSavedColors } from '../../color/savedColors'
import { ButtonColorGroup } from './ButtonColorGroup'
import { TargetField } from './ButtonTarget'
import { LettersGroup } from './LettersGroup'
import { isButton, useContrastOf } from './measureSurrounds'

interface CopyProps {
  readonly document: BackdropDocument
}

/** What stands in front: its colours, words of other lengths, type, and the parts it has. */
export function CopyGroups({ document, sources }: CopyProps & { readonly sources: LoadedSources }) {
  return (
    <>
      <ColorGroup document={document} sources={sources} />
      <LettersGroup document={document} />
      <ButtonColorGroup document={document} sources={sources} />
      <TrialGroup />
      <TypeGroup document={document} />
      <PartsGroup document={document} />
    </>
  )
}

function ColorGroup({ document, sources }: CopyProps & { readonly sources: LoadedSources }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { copy } = document
  const useContrast: ContrastOf = () =>
    useContrastOf(document, sources, (text) => !isButton(text), 'The copy has no words.')
  return (
    <Group title="Copy" aside="edit it on the stage">
      <ColorField
        label="Copy colour"
        value={copy.color}
        onChange={(value, gesture) =>
          dispatch({ type: 'copy/write', field: 'color', value }, gesture)
        }
        useContrast={useContrast}
      />
    </Group>
  )
}

/** Very short and very long words on the stage, measured like those that are written. */
function TrialGroup() {
  const trial = useStage((state) => state.trial)
  const set = useStage((state) => state.set)
  useEffect(() => () => set({ trial: null }), [set])
  return (
    <Group title="Try other lengths" aside="nothing is changed">
      <Choice<TrialLength | 'written'>
        label="Try other lengths"
        hideLabel
        value={trial ?? 'written'}
        onChange={(next) => set({ trial: next === 'written' ? null : next })}
        options={[
          { value: 'written', label: 'As written' },
          { value: 'short', label: 'Very short' },
          { value: 'long', label: 'Very long' },
        ]}
      />
    </Group>
  )
}

const percent = (value: number): string => `${Math.round(value * 100)} %`

/** Sliders for how the copy is set: what they are called, and how far they go. */
const TYPE_FIELDS: readonly {
  readonly field: Exclude<keyof CopyType, 'headingFamily' | 'bodyFamily'>
  readonly label: string
  readonly low: number
  readonly high: number
  readonly step: number
  readonly shown: (value: number) => string
}[] = [
  { field: 'headingSize', label: 'Heading size', low: 0.5, high: 1.6, step: 0.05, shown: percent },
  { field: 'headingWeight', label: 'Heading weight', low: 300, high: 900, step: 50, shown: String },
  { field: 'bodySize', label: 'Text size', low: 0.75, high: 1.6, step: 0.05, shown: percent },
  { field: 'bodyWeight', label: 'Text weight', low: 300, high: 800, step: 50, shown: String },
  {
    field: 'lineLetters',
    label: 'Line length of the text',
    low: 20,
    high: 90,
    step: 1,
    shown: (value) => `about ${value} letters`,
  },
]

function TypeGroup({ document }: CopyProps) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { type } = document.copy
  const isUsual = (Object.keys(FIRST_TYPE) as (keyof CopyType)[]).every(
    (field) => type[field] === FIRST_TYPE[field],
  )
  return (
    <Group title="Type" aside="against the usual size">
      <FaceField
        label="Typeface of the heading"
        family={type.headingFamily}
        onChange={({ family, weight }) =>
          dispatch({
            type: 'copy/type',
            set: {
              headingFamily: family,
              ...(weight !== null && { headingWeight: weightWithin(weight, 900) }),
            },
          })
        }
      />
      <FaceField
        label="Typeface of the text"
        family={type.bodyFamily}
        onChange={({ family, weight }) =>
          dispatch({
            type: 'copy/type',
            set: {
              bodyFamily: family,
              ...(weight !== null && { bodyWeight: weightWithin(weight, 800) }),
            },
          })
        }
      />
      {TYPE_FIELDS.map(({ field, shown, ...range }) => (
        <Slider
          key={field}
          {...range}
          value={type[field]}
          shown={shown(type[field])}
          onChange={(value, gesture) =>
            dispatch({ type: 'copy/type', set: { [field]: value } }, gesture)
          }
        />
      ))}
      {!isUsual && (
        <Button onClick={() => dispatch({ type: 'copy/type', set: FIRST_TYPE })}>Usual type</Button>
      )}
    </Group>
  )
}

/** What weights the copy may have, in steps of its sliders. */
const weightWithin = (weight: number, most: number): number =>
  Math.min(most, Math.max(300, Math.round(weight / 50) * 50))

/** One of the project's typefaces, or the one of the page. */
function FaceField({
  label,
  family,
  onChange,
}: {
  readonly label: string
  readonly family: string | null
  readonly onChange: (face: {
    readonly family: string | null
    readonly weight: number | null
  }) => void
}) {
  const typefaces = useSavedColors()?.typefaces ?? []
  if (typefaces.length === 0 && family === null) return null
  const chosen = typefaces.find((each) => each.family === family)
  const gone = family !== null && !chosen ? [{ value: family, label: family }] : []
  return (
    <div className="flex items-center justify-between gap-2">
      <span>{label}</span>
      <Picker
        label={label}
        value={chosen?.name ?? family ?? ''}
        options={[
          { value: '', label: 'The page’s own' },
          ...typefaces.map(({ name }) => ({ value: name, label: name })),
          ...gone,
        ]}
        onChange={(value) => {
          if (value === family) return
          const face = typefaces.find(({ name }) => name === value)
          onChange({ family: face?.family ?? null, weight: face?.weight ?? null })
        }}
      />
    </div>
  )
}

function PartsGroup({ document }: CopyProps) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { copy } = document
  const { more, links } = copy
  const set = (parts: Partial<Omit<CopyParts, 'type'>>, gesture: string | null = null): void =>
    dispatch({ type: 'copy/parts', parts }, gesture)
  return (
    <Group title="Parts of the copy" aside="edit their words on the stage">
      <Toggle
        label="Rule"
        note="A thin line between heading and text."
        enabled={copy.rule}
        onChange={(rule) => set({ rule })}
      />
      <AddRemove
        what="text"
        count={more.length}
        most={PART_LIMITS.more}
        onChange={(count) =>
          set({ more: count > more.length ? [...more, 'Another text'] : more.slice(0, count) })
        }
      />
      <LinkPart
        label="Second button"
        note="Only outlined, beside the first."
        part="second"
        words="Second action"
        copy={copy}
        onChange={set}
      />
      <LinkPart
        label="Link onward"
        note="At the end of the region, to what follows it."
        part="onward"
        words="Read on"
        copy={copy}
        onChange={set}
      />
      <Toggle
        label="Footer"
        note="A line at the end of the region."
        enabled={copy.footer !== null}
        onChange={(on) => set({ footer: on ? 'A line at the end' : null })}
      />
      <AddRemove
        what="header link"
        count={links.length}
        most={6}
        onChange={(count) =>
          dispatch({
            type: 'copy/links',
            links: count > links.length ? [...links, 'New link'] : links.slice(0, count),
          })
        }
      />
      <Toggle
        label="Header stays in view"
        note="Transparent at the top, solid after scrolling. Scroll the demonstration page to see it."
        enabled={copy.solidHeader !== null}
        onChange={(on) => set({ solidHeader: on ? { color: '#ffffff' } : null })}
      />
      {copy.solidHeader && <SolidHeader color={copy.solidHeader.color} onChange={set} />}
    </Group>
  )
}

/** Adds one of several things, or takes the last away. */
function AddRemove({
  what,
  count,
  most,
  onChange,
}: {
  what: string
  count: number
  most: number
  onChange: (count: number) => void
}) {
  return (
    <div className="flex flex-wrap gap-2">
      <Button disabled={count >= most} onClick={() => onChange(count + 1)}>
        Add a {what}
      </Button>
      <Button disabled={count === 0} onClick={() => onChange(count - 1)}>
        Remove the last {what}
      </Button>
    </div>
  )
}

/** A part that says something and leads somewhere. */
function LinkPart({
  label,
  note,
  part,
  words,
  copy,
  onChange,
}: {
  label: string
  note: string
  part: 'second' | 'onward'
  /** What it says at first. */
  words: string
  copy: CopyParts
  onChange: (parts: Partial<CopyParts>) => void
}) {
  const link = copy[part]
  return (
    <>
      <Toggle
        label={label}
        note={note}
        enabled={link !== null}
        onChange={(on) => onChange({ [part]: on ? { label: words, href: '#' } : null })}
      />
      {link && (
        <TargetField
          label={`Where it leads: ${label.toLowerCase()}`}
          value={link.href}
          onCommit={(href) => onChange({ [part]: { ...link, href } })}
        />
      )}
    </>
  )
}

function SolidHeader({
  color,
  onChange,
}: {
  color: string
  onChange: (parts: Partial<CopyParts>, gesture: string | null) => void
}) {
  const ratio = contrastRatio(parseHex(inkOn(color)), parseHex(color))
  return (
    <>
      <ColorField
        label="Colour of the solid header"
        value={color}
        onChange={(next, gesture) => onChange({ solidHeader: { color: next } }, gesture)}
      />
      <p className="text-xs text-muted">
        Its words are {inkOn(color) === '#ffffff' ? 'white' : 'dark'} there: {ratio.toFixed(2)} : 1.
      </p>
    </>
  )
}
