import { assertNever } from '../result'
import type { Finding } from './findings'

/** A finding in words: what it is with its figure, what it means for visitors, and what to do. */
export interface FindingWords {
  readonly title: string
  readonly meaning: string
  readonly advice: string
}

const seconds = (value: number): string => `${value.toFixed(2)} s`
const at = (ms: number | null): string => seconds((ms ?? 0) / 1000)

/**
 * Words a finding. Kinds of metadata are named by the caller's facts, since a finding carries only
 * their number.
 */
export function describeFinding({ code, figure, fromMs, toMs, place }: Finding): FindingWords {
  switch (code) {
    case 'narrow':
      return {
        title: `Only ${figure} pixels wide`,
        meaning: 'On a laptop it is stretched, and visitors see blur or blocks.',
        advice: 'Use it in a narrow region, or look for a wider version.',
      }
    case 'soft':
      return {
        title: `Already soft: detail for ${figure} pixels`,
        meaning:
          'The file is larger than its detail: it was enlarged once, and the extra pixels only weigh.',
        advice: `Deliver it no wider than ${figure} pixels, or look for the original.`,
      }
    case 'busy':
      return {
        title: `Busy: ${Math.round(figure)} ΔE a second`,
        meaning: 'So much changes behind the copy that reading is hard work.',
        advice: 'Slow it down, lay a stronger scrim over it, or choose a calmer part.',
      }
    case 'flashes':
      return {
        title: `${figure} flashes within a second, from ${at(fromMs)}`,
        meaning: 'More than three flashes a second can cause seizures.',
        advice: 'Cut this part out: it must not go on a page.',
      }
    case 'hard-cut':
      return {
        title: `Hard cut at ${at(fromMs)}`,
        meaning: 'A jump in the middle of a background draws the eye at every pass.',
        advice: 'Keep to one side of it.',
      }
    case 'title-card':
      return {
        title: `Title card up to ${at(toMs)}`,
        meaning: 'Visitors would read somebody’s title behind your heading.',
        advice: 'Start behind it.',
      }
    case 'black-start':
      return {
        title: `Black up to ${at(toMs)}`,
        meaning: 'The poster would be black, and each pass of the loop begins with a gap.',
        advice: 'Start behind it.',
      }
    case 'black-end':
      return {
        title: `Black from ${at(fromMs)}`,
        meaning: 'Each pass of the loop ends in a gap.',
        advice: 'End before it.',
      }
    case 'held-start':
      return {
        title: `Nothing moves up to ${at(toMs)}`,
        meaning: 'The loop seems stuck at each start.',
        advice: 'Start behind it.',
      }
    case 'held-end':
      return {
        title: `Nothing moves from ${at(fromMs)}`,
        meaning: 'The loop seems stuck at each end.',
        advice: 'End before it.',
      }
    case 'fade-in':
      return {
        title: `Fades in up to ${at(toMs)}`,
        meaning: 'The loop dips to black at each start.',
        advice: 'Start behind the fade.',
      }
    case 'fade-out':
      return {
        title: `Fades out from ${at(fromMs)}`,
        meaning: 'The loop dips to black at each end.',
        advice: 'End before the fade.',
      }
    case 'mark':
      return {
        title: `Lettering or a mark, ${placeWords(place)}`,
        meaning: 'Burnt-in lettering competes with the copy and may belong to somebody else.',
        advice: 'Crop it away in the workbench, under Material, or look for a clean version.',
      }
    case 'bars':
      return {
        title: `Black bars take ${figure} % of the picture`,
        meaning:
          'A background with bars does not reach the edges of its region, and the bars are paid for in bytes.',
        advice: 'Crop them away in the workbench, under Material.',
      }
    case 'sound':
      return {
        title: figure > 0 ? `Sound track of ${bytes(figure)}` : 'Sound track',
        meaning:
          'It is never heard and always removed from what is delivered; in the source it only weighs.',
        advice: 'Take it out here if the file is to be kept small.',
      }
    case 'heavy':
      return {
        title: `Heavy: ${figure.toFixed(1)} Mbit a second`,
        meaning:
          'Far more data than a background needs. What is delivered is encoded anew and much lighter.',
        advice: 'Nothing to do: delivered files keep to their budget.',
      }
    case 'index-last':
      return {
        title: 'Index at the end of the file',
        meaning:
          'A browser must fetch the whole file before the first frame shows, if this file itself is put on a page.',
        advice: 'Move it to the front: nothing is encoded anew.',
      }
    case 'personal':
      return {
        title: 'Carries personal metadata',
        meaning:
          'Such files tell where, when or by whom they were made. None of it reaches what is delivered.',
        advice: 'Strip it here if the source itself is passed on.',
      }
    case 'pictures':
      return {
        title:
          figure > 0
            ? `A sequence of pictures: ${bytes(figure)} as a clip`
            : 'A sequence of pictures',
        meaning: 'Such files weigh many times what the same motion weighs as a clip.',
        advice: 'Use it like any clip: what is delivered is a clip.',
      }
    default:
      return assertNever(code)
  }
}

function placeWords(place: Finding['place']): string {
  if (!place) return 'on the picture'
  const x = place.x + place.width / 2
  const y = place.y + place.height / 2
  const across = x < 0.38 ? 'left' : x > 0.62 ? 'right' : 'middle'
  const down = y < 0.38 ? 'top' : y > 0.62 ? 'bottom' : 'centre'
  return `${down} ${across}`
}

function bytes(count: number): string {
  return count >= 1e6
    ? `${(count / 1e6).toFixed(1)} MB`
    : `${Math.max(1, Math.round(count / 1000))} kB`
}
