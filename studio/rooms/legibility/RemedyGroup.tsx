import { useEffect, useRef, useState } from 'react'
import { coverRect } from '../../../core/fit/cover'
import { SCREENS, type ScreenName } from '../../../core/fit/screens'
import { scrimOn } from '../../../core/backdrop/scrimOn'
import type { ShownPicture } from '../../../core/legibility/pictureCost'
import { isOneOf, type TextPlace } from '../../../core/legibility/TextPlace'
import type { Layer } from '../../../core/scrim/scrimAt'
import { isEnough, worstOfAll, type WorstMoment } from '../../../core/legibility/worstOf'
import { useSavedColors } from '../../color/savedColors'
import { useBackdrop } from '../../state/backdropStore'
import { freshOf, useContrastStore } from '../../state/contrastStore'
import { Button, Group } from '../../ui/controls'
import { AskedButton } from '../../ui/AskedButton'
import { useAsked } from '../../ui/useAsked'
import type { BenchProps } from '../Room'
import { findRemedies } from './findRemedies'
import type { Remedy, RemedyStep, Vain } from './Remedy'
import type { ScreenPicture } from './smallPictures'
import { SeenScrim } from './SeenScrim'
import { toldWorst } from './toldWorst'

/** What has been found so far. */
interface Found {
  readonly pictures: readonly ScreenPicture[]
  readonly remedies: readonly Remedy[]
  readonly vain: readonly Vain[]
  /** Whether nothing has to be found: all copy is read. */
  readonly isRead: boolean
  /** The screen on which copy fails most: previews show it. */
  readonly shownOn: ScreenName
}

const NOTHING: Found = {
  isRead: false,
  shownOn: 'laptop',
  pictures: [],
  remedies: [],
  vain: [],
}

const added = (found: Found, { failing, pictures, remedy, vain }: RemedyStep): Found => ({
  isRead: failing ? failing.length === 0 : found.isRead,
  shownOn: (failing && worstOfAll(failing)?.screen) ?? found.shownOn,
  pictures: pictures ?? found.pictures,
  remedies: remedy ? [...found.remedies, remedy].sort(isGentler) : found.remedies,
  vain: vain ? [...found.vain, vain] : found.vain,
})

/** What takes least from the picture comes first; then what is read best. */
const isGentler = (one: Remedy, other: Remedy): number =>
  one.cost.deltaE - other.cost.deltaE || shareOf(other.worst) - shareOf(one.worst)

const shareOf = ({ ratio, text }: WorstMoment): number => ratio / text.needed

/** Ways to make all copy readable, with what each takes from the picture. */
export function RemedyGroup({ document, sources }: Pick<BenchProps, 'document' | 'sources'>) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const contrasts = freshOf(
    useContrastStore((state) => state.contrasts),
    document,
    sources,
  )
  const brand = useSavedColors()?.colors ?? []
  const [found, setFound] = useState(NOTHING)
  const asked = useAsked(async (signal, tell) => {
    setFound(NOTHING)
    return findRemedies(document, sources, brand, signal, tell, (step) =>
      setFound((before) => added(before, step)),
    )
  })
  const { state } = asked
  const told = toldWorst(contrasts)
  const passes = told !== null && isEnough(told.ratio, told.needed ?? 0)
  const apply = ({ actions }: Remedy): void => {
    const gesture = crypto.randomUUID()
    for (const action of actions) dispatch(action, gesture)
  }
  return (
    <Group title="Remedies" aside="gentlest to the picture first">
      {(passes && state.is === 'idle') || (state.is === 'done' && found.isRead) ? (
        <p className="text-xs text-muted">All copy can be read. Nothing has to be changed.</p>
      ) : (
        <AskedButton asked={asked}>Find remedies</AskedButton>
      )}
      {found.remedies.length > 0 && (
        <ol aria-label="Remedies" className="flex flex-col gap-2">
          {found.remedies.map((remedy) => (
            <li
              key={remedy.title}
              className="flex gap-2.5 rounded border border-line bg-white p-1.5"
            >
              <Preview
                remedy={remedy}
                pictures={remedy.pictures ?? found.pictures}
                shownOn={found.shownOn}
              />
              <div className="flex min-w-0 flex-1 flex-col gap-0.5 text-xs">
                <b className="text-[0.82rem] leading-tight font-semibold">{remedy.title}</b>
                <span>{readText(remedy.worst)}</span>
                <span className="text-muted">{costText(remedy)}</span>
                <div className="mt-auto self-start">
                  <Button aria-label={`Apply: ${remedy.title}`} onClick={() => apply(remedy)}>
                    Apply
                  </Button>
                </div>
              </div>
            </li>
          ))}
        </ol>
      )}
      {found.vain.length > 0 && (
        <div className="text-xs text-muted">
          <p>Not enough:</p>
          <ul aria-label="Not enough" className="ml-4 list-disc">
            {found.vain.map(({ title, worst }) => (
              <li key={title}>
                {title}:{' '}
                {typeof worst === 'string'
                  ? worst
                  : `${readText(worst)}, needs ${worst.text.needed}`}
              </li>
            ))}
          </ul>
        </div>
      )}
      {state.is === 'done' && found.remedies.length === 0 && !found.isRead && (
        <p role="status" className="text-xs">
          None of these is enough by itself. Combine a scrim with another colour or position of the
          copy.
        </p>
      )}
    </Group>
  )
}

const readText = ({ ratio, text, screen }: WorstMoment): string =>
  `least ${ratio.toFixed(2)} : 1 (${text.label.toLowerCase()}, ${SCREENS[screen].label.toLowerCase()})`

const costText = ({ cost: { deltaE, changed }, note }: Remedy): string =>
  deltaE === 0
    ? (note ?? 'The picture stays as it is.')
    : `Picture: ΔE ${deltaE.toFixed(1)} on average, ${Math.round(changed * 100)} % visibly changed`

/** A button is measured by what is around it, too: only its label is shown. */
const isWritten = (text: TextPlace): boolean => !isOneOf(text, ['Button'])

/** Most pixels of a preview; pictures follow each other after so long. */
const [PREVIEW_WIDTH, PREVIEW_HEIGHT] = [132, 150]
const TURN_MS = 350

/** What a screen shows with a remedy, moving: the picture, the scrim, and bars for the copy. */
function Preview({
  remedy,
  pictures,
  shownOn,
}: Pick<Found, 'pictures' | 'shownOn'> & { readonly remedy: Remedy }) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const { region, texts } = remedy.layouts[shownOn]
  const scale = Math.min(PREVIEW_WIDTH / region.width, PREVIEW_HEIGHT / region.height)
  const width = Math.round(region.width * scale)
  const height = Math.round(region.height * scale)
  useEffect(() => {
    const shown = pictures.filter(({ screen }) => screen === shownOn)
    const context = canvas.current!.getContext('2d')!
    let turn = 0
    const draw = (): void => {
      const picture = shown[turn++ % shown.length]
      if (picture) drawCovering(context, picture, width, height)
    }
    draw()
    if (matchMedia('(prefers-reduced-motion: reduce)').matches) return
    const timer = setInterval(draw, TURN_MS)
    return () => clearInterval(timer)
  }, [pictures, shownOn, width, height])
  return (
    <span
      aria-hidden
      className="relative isolate block shrink-0 self-start overflow-hidden rounded-sm"
      style={{ width, height }}
    >
      <canvas ref={canvas} width={width} height={height} className="absolute inset-0" />
      <SeenScrim scrim={scrimOn(remedy.document, shownOn)} />
      {texts.filter(isWritten).flatMap(({ label, boxes, color, plate, covered }) =>
        boxes.map((box, at) => (
          <span
            key={`${label} ${at}`}
            className="absolute rounded-[1px]"
            style={{
              left: box.x * scale,
              top: (box.y + box.height * 0.15) * scale,
              width: box.width * scale,
              height: Math.max(1, box.height * 0.7 * scale),
              // Words have it around them, controls are what they stand on.
              background: plate && covered === undefined ? rgba(plate.layer) : color,
              ...(plate &&
                covered !== undefined && { boxShadow: `0 0 2px 2px ${rgba(plate.layer)}` }),
              opacity: 0.9,
            }}
          />
        )),
      )}
    </span>
  )
}

const rgba = ({ r, g, b, alpha }: Layer): string => `rgb(${r} ${g} ${b} / ${alpha})`

function drawCovering(
  context: CanvasRenderingContext2D,
  { data, size, region, focal }: ShownPicture,
  width: number,
  height: number,
): void {
  const picture = new OffscreenCanvas(size.width, size.height)
  const pixels = new ImageData(new Uint8ClampedArray(data), size.width, size.height)
  picture.getContext('2d')!.putImageData(pixels, 0, 0)
  const { shown } = coverRect(size, region, focal)
  context.drawImage(picture, shown.x, shown.y, shown.width, shown.height, 0, 0, width, height)
}
