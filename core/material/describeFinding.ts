import type { Finding, FindingCode } from './findings'

/** A finding in words: what it is with its figure, what it means for visitors, and what to do. */
export interface FindingWords {
  readonly title: string
  readonly meaning: string
  readonly advice: string
}

const seconds = (value: number): string => `${value.toFixed(2)} s`
const at = (ms: number | null): string => seconds((ms ?? 0) / 1000)

/** What is said of each finding; its figure and moments are filled in. */
const WORDS: Readonly<Record<FindingCode, (finding: Finding) => FindingWords>> = {
  narrow: ({ figure }) => ({
    title: `Only ${figure} pixels wide`,
    meaning: 'On a laptop it is enlarged, and visitors see blur or blocks.',
    advice: 'Use it in a narrow region, or find a wider version.',
  }),
  soft: ({ figure }) => ({
    title: `Soft: detail for ${figure} pixels`,
    meaning: 'The picture was enlarged before: the extra pixels add bytes but no detail.',
    advice: `Deliver it no wider than ${figure} pixels, or find the original.`,
  }),
  busy: ({ figure }) => ({
    title: `Busy: ${Math.round(figure)} ΔE per second`,
    meaning: 'So much moves behind the copy that it is hard to read.',
    advice: 'Slow it down, use a stronger scrim, or choose a calmer part.',
  }),
  flashes: ({ figure, fromMs }) => ({
    title: `${figure} flashes within a second, from ${at(fromMs)}`,
    meaning: 'More than three flashes per second can cause seizures.',
    advice: 'Cut this part out: do not publish it.',
  }),
  'hard-cut': ({ fromMs }) => ({
    title: `Hard cut at ${at(fromMs)}`,
    meaning: 'A jump in the middle of a background is distracting each time it plays.',
    advice: 'Choose a cut before or after it.',
  }),
  'title-card': ({ toMs }) => ({
    title: `Title card up to ${at(toMs)}`,
    meaning: 'Visitors would see a title behind your heading.',
    advice: 'Start after it.',
  }),
  'black-start': ({ toMs }) => ({
    title: `Black up to ${at(toMs)}`,
    meaning: 'The poster would be black, and each turn of the loop starts with a gap.',
    advice: 'Start after it.',
  }),
  'black-end': ({ fromMs }) => ({
    title: `Black from ${at(fromMs)}`,
    meaning: 'Each turn of the loop ends with a gap.',
    advice: 'End before it.',
  }),
  'held-start': ({ toMs }) => ({
    title: `Nothing moves up to ${at(toMs)}`,
    meaning: 'The loop seems to freeze at each start.',
    advice: 'Start after it.',
  }),
  'held-end': ({ fromMs }) => ({
    title: `Nothing moves from ${at(fromMs)}`,
    meaning: 'The loop seems to freeze at each end.',
    advice: 'End before it.',
  }),
  'fade-in': ({ toMs }) => ({
    title: `Fades in up to ${at(toMs)}`,
    meaning: 'The loop dips to black at each start.',
    advice: 'Start after the fade.',
  }),
  'fade-out': ({ fromMs }) => ({
    title: `Fades out from ${at(fromMs)}`,
    meaning: 'The loop dips to black at each end.',
    advice: 'End before the fade.',
  }),
  mark: ({ place }) => ({
    title: `Lettering or a mark, ${placeWords(place)}`,
    meaning: 'Burnt-in lettering competes with the copy and may be somebody’s property.',
    advice: 'Crop it in the workbench, under Material, or find a clean version.',
  }),
  bars: ({ figure }) => ({
    title: `Black bars take ${figure} % of the picture`,
    meaning: 'The picture does not reach the edges of its region, and the bars cost bytes.',
    advice: 'Crop them in the workbench, under Material.',
  }),
  sound: ({ figure }) => ({
    title: figure > 0 ? `Sound track of ${bytes(figure)}` : 'Sound track',
    meaning: 'Delivered files never have sound; in the source it only takes space.',
    advice: 'Remove it here to make the source smaller.',
  }),
  heavy: ({ figure }) => ({
    title: `Heavy: ${figure.toFixed(1)} Mbit/s`,
    meaning:
      'Much more data than a background needs. Delivered files are encoded again and much lighter.',
    advice: 'Nothing to do: delivered files keep their budget.',
  }),
  'index-last': () => ({
    title: 'Index at the end of the file',
    meaning:
      'If this file itself is used on a page, browsers must load all of it before they show the first frame.',
    advice: 'Move it to the start; nothing is encoded again.',
  }),
  personal: () => ({
    title: 'Contains personal metadata',
    meaning: 'The file says where, when or by whom it was made. Delivered files never do.',
    advice: 'Remove it here if you pass on the source itself.',
  }),
  pictures: ({ figure }) => ({
    title:
      figure > 0 ? `A sequence of pictures: ${bytes(figure)} as a clip` : 'A sequence of pictures',
    meaning: 'Such files are many times larger than a clip with the same motion.',
    advice: 'Use it like any clip: a clip is delivered.',
  }),
  interlaced: () => ({
    title: 'Interlaced',
    meaning:
      'Each frame holds two moments, line by line. Telon shows the first of them and interpolates the rest where something moves.',
    advice: 'If the program that made the clip can deinterlace, its result may be sharper.',
  }),
  rotated: () => ({
    title: 'Turned by its metadata',
    meaning: 'Its pixels lie on their side; delivered files are upright in every program.',
    advice: 'Nothing is left to do.',
  }),
  'wide-gamut': () => ({
    title: 'Wider colours than sRGB',
    meaning: 'Delivered files are sRGB: very saturated colours become a little calmer.',
    advice: 'Compare it on the stage with the original.',
  }),
  'heavy-image': ({ figure }) => ({
    title: `Heavy: ${bytes(figure)}`,
    meaning: 'A page that used this file as it is would wait for it.',
    advice: 'Use it like any image: light files are delivered.',
  }),
  transparent: () => ({
    title: 'Partly transparent',
    meaning: 'Delivered files are opaque: a colour fills what is transparent.',
    advice: 'Choose the colour in the backdrop, under Material, or with --matte.',
  }),
  'missing-frames': ({ figure, fromMs, toMs }) => ({
    title: `${figure} ${figure === 1 ? 'frame' : 'frames'} cannot be decoded, ${at(fromMs)} to ${at(toMs)}`,
    meaning: 'In their place the last frame before is held: the motion stops there.',
    advice: 'Choose a cut outside of this part, or export the clip again.',
  }),
}

/**
 * Words a finding. Kinds of metadata are named by the caller's facts, since a finding carries only
 * their number.
 */
export function describeFinding(finding: Finding): FindingWords {
  return WORDS[finding.code](finding)
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
