import { Search } from 'lucide-react'
import { useState } from 'react'
import { Bar, BarChart, Cell, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts'
import type { DocumentOf } from '../../../../core/backdrop/BackdropDocument'
import type { PictureFormat } from '../../../../core/backdrop/recipe'
import { SCREENS, type ScreenClass } from '../../../../core/fit/screens'
import { mimeOf } from '../../../../core/media/image/mimeOf'
import { mediaUrl } from '../../../api/client'
import { DECK_SHELL, type DeckProps } from '../../../rooms/Room'
import { useWork } from '../../../state/workStore'
import { AskDialog } from '../../../ui/AskDialog'
import { Button } from '../../../ui/controls'
import { formatBytes, PICTURE_NAMES } from '../../../ui/format'
import { Picker } from '../../../ui/Picker'
import { Wipe } from '../../../ui/Wipe'
import { addressOf, slidesOf } from '../slidesOf'
import { slideSums, weighedSlides, type WeighedSlide } from '../slideWeights'

type Props = Omit<DeckProps, 'document'> & { readonly document: DocumentOf<'slideshow'> }

/** Bytes and likeness of every slide, in one class and format: the worst one counts. */
export function SlideWeights({ document, sources }: Props) {
  const made = useWork((state) => state.made)
  const [screenClass, setClass] = useState<ScreenClass>('wide')
  const [format, setFormat] = useState<PictureFormat>('avif')
  const [closer, setCloser] = useState<WeighedSlide | null>(null)
  if (document.base.delivery === 'clip')
    return (
      <p className={`${DECK_SHELL} text-muted`}>
        It is delivered as a clip: see Weight for its files.
      </p>
    )
  const weighed = weighedSlides(document, sources.known, made)
  const shownClass = weighed.some((each) => each.screenClass === screenClass)
    ? screenClass
    : (weighed[0]?.screenClass ?? screenClass)
  const shown = weighed.filter((each) => each.screenClass === shownClass && each.format === format)
  const sums = slideSums(document, weighed).find(
    (each) => each.screenClass === shownClass && each.format === format,
  )
  if (weighed.length === 0)
    return (
      <p className={`${DECK_SHELL} text-muted`}>
        No slide is rendered yet. Under Weight, Render files makes them: the bytes of the budgets
        are then shared so that the worst slide looks as good as possible.
      </p>
    )
  const classes = [...new Set(weighed.map((each) => each.screenClass))]
  const formats = [...new Set(weighed.map((each) => each.format))]
  return (
    <div className="grid h-full grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
      <div className={DECK_SHELL} tabIndex={0} role="region" aria-label="Weight per slide">
        <div className="mb-1 flex flex-wrap items-center gap-2 text-xs text-muted">
          <Picker
            label="Screen"
            value={shownClass}
            onChange={setClass}
            options={classes.map((value) => ({ value, label: SCREENS[value].label }))}
          />
          <Picker
            label="Format"
            value={format}
            onChange={setFormat}
            options={formats.map((value) => ({ value, label: PICTURE_NAMES[value] }))}
          />
          {sums && (
            <span>
              first visit {formatBytes(sums.first)} of {formatBytes(sums.firstBudget)}; whole cycle{' '}
              {formatBytes(sums.cycle)} of {formatBytes(sums.cycleBudget)}
            </span>
          )}
        </div>
        <WeightTable shown={shown} worst={sums?.worstSsim ?? 0} onCloser={setCloser} />
      </div>
      <Bars shown={shown} worst={sums?.worstSsim ?? 0} />
      {closer && (
        <Closer
          document={document}
          sources={sources}
          slide={closer}
          onClose={() => setCloser(null)}
        />
      )}
    </div>
  )
}

/** Each slide with its bytes and its likeness. */
function WeightTable({
  shown,
  worst,
  onCloser,
}: {
  shown: readonly WeighedSlide[]
  worst: number
  onCloser: (slide: WeighedSlide) => void
}) {
  return (
    <table className="w-full text-left text-[0.82rem]" aria-label="Weight per slide">
      <thead className="text-xs text-muted">
        <tr>
          {['Slide', 'Size', 'Bytes', 'SSIM', 'Look'].map((head) => (
            <th
              key={head}
              scope="col"
              className="border-b border-line-strong/40 py-0.5 pr-4 font-normal"
            >
              {head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {shown.map((each) => (
          <tr key={each.slide}>
            <td className="border-b border-line py-0.5 pr-4">{each.slide + 1}</td>
            <td className="border-b border-line py-0.5 pr-4 tabular-nums">
              {each.width} × {each.height}
            </td>
            <td className="border-b border-line py-0.5 pr-4 tabular-nums">
              {formatBytes(each.bytes)}
            </td>
            <td className="border-b border-line py-0.5 pr-4 tabular-nums">
              {each.ssim.toFixed(3)}
              {each.ssim === worst && <b className="ml-1 font-semibold">worst</b>}
            </td>
            <td className="border-b border-line py-0.5">
              <Button
                tone="quiet"
                className="min-h-6! px-1.5!"
                aria-label={`Look closer at slide ${each.slide + 1}`}
                onClick={() => onCloser(each)}
              >
                <Search className="size-3.5" aria-hidden />
              </Button>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function Bars({ shown, worst }: { shown: readonly WeighedSlide[]; worst: number }) {
  const low = Math.max(
    0,
    Math.floor((Math.min(1, ...shown.map(({ ssim }) => ssim)) - 0.02) * 50) / 50,
  )
  return (
    <figure className="min-w-0 px-2 py-1" aria-label="SSIM of each slide">
      <figcaption className="text-xs text-muted">
        SSIM of each slide, from {low.toFixed(2)}
      </figcaption>
      <div className="h-[calc(100%-1.2rem)]">
        <ResponsiveContainer width="100%" height="100%">
          <BarChart
            data={shown.map(({ slide, ssim }) => ({ slide: String(slide + 1), ssim }))}
            margin={{ top: 4, right: 8, bottom: 0, left: 0 }}
          >
            <XAxis dataKey="slide" tick={{ fontSize: 11 }} />
            <YAxis domain={[low, 1]} width={40} tick={{ fontSize: 11 }} />
            <Tooltip formatter={(value) => Number(value).toFixed(4)} />
            <Bar dataKey="ssim" isAnimationActive={false}>
              {shown.map(({ slide, ssim }) => (
                <Cell key={slide} fill={ssim === worst ? '#9c1c35' : '#8d8371'} />
              ))}
            </Bar>
          </BarChart>
        </ResponsiveContainer>
      </div>
    </figure>
  )
}

/** A slide's file beside the image that it was made from. */
function Closer({
  document,
  sources,
  slide,
  onClose,
}: Omit<Props, 'backdropId'> & { slide: WeighedSlide; onClose: () => void }) {
  const source = slidesOf(document, sources)[slide.slide]?.source
  const picture = (src: string, label: string) => (
    <img src={src} alt={label} className="size-full object-cover" />
  )
  return (
    <AskDialog
      title={`Slide ${slide.slide + 1}: ${PICTURE_NAMES[slide.format]}, ${formatBytes(slide.bytes)}`}
      action="Close"
      wide
      onClose={onClose}
      onAct={() => Promise.resolve()}
    >
      <div style={{ aspectRatio: `${slide.width} / ${slide.height}` }}>
        {source && (
          <Wipe
            label="Line between the image and its file"
            leftLabel="as added"
            rightLabel={`file, SSIM ${slide.ssim.toFixed(3)}`}
            left={picture(addressOf(source), 'The image as added')}
            right={picture(mediaUrl(slide.sha256, mimeOf(slide.format)), 'The file')}
          />
        )}
      </div>
    </AskDialog>
  )
}
