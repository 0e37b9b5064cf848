import type { DocumentOf } from '../../../core/backdrop/BackdropDocument'
import { drifts, viewAt } from '../../../core/kinds/image/Image'
import { easeInOut } from '../../../core/kinds/easing'
import { mimeOf } from '../../../core/media/image/mimeOf'
import { mediaUrl } from '../../api/client'
import { DECK_SHELL, type DeckProps } from '../../rooms/Room'
import { imageOf } from './imageOf'

type Props = Omit<DeckProps, 'document'> & { readonly document: DocumentOf<'image'> }

/** Moments of the way from start to end. */
const MOMENTS = [0, 0.2, 0.4, 0.6, 0.8, 1]

/** What is seen on the way from the start view to the end view. */
export function PanDeck({ document, sources }: Props) {
  const source = imageOf(document, sources)
  const { base, fit } = document
  if (!source || !drifts(base))
    return (
      <div className={`${DECK_SHELL} text-muted`}>
        The image stands still. Switch on slow pan and zoom to see its way here.
      </div>
    )
  const { seconds } = base.drift!
  const url = mediaUrl(source.sha256, mimeOf(source.facts.format))
  return (
    <div
      className={`${DECK_SHELL} flex items-start gap-3`}
      tabIndex={0}
      role="region"
      aria-label="The way of the pan and zoom"
    >
      {MOMENTS.map((share) => {
        const { x, y, zoom } = viewAt(base.drift!, easeInOut(share))
        return (
          <figure key={share} className="min-w-40 flex-1">
            <div className="aspect-video overflow-hidden rounded-sm bg-ink">
              <img
                src={url}
                alt=""
                className="size-full origin-top-left object-cover"
                style={{
                  objectPosition: `${fit.focal.x * 100}% ${fit.focal.y * 100}%`,
                  transform: `translate(${-x * zoom * 100}%, ${-y * zoom * 100}%) scale(${zoom})`,
                }}
              />
            </div>
            <figcaption className="mt-1 flex justify-between font-mono text-xs text-muted">
              <span>{((share * seconds) / 2).toFixed(1)} s</span>
              <span>{zoom.toFixed(2)} ×</span>
            </figcaption>
          </figure>
        )
      })}
      <p className="w-40 shrink-0 text-xs text-muted">
        Then the same way back: after {seconds} s it begins again where it started.
      </p>
    </div>
  )
}
