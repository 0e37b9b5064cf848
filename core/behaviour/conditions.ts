import type { BackdropDocument } from '../backdrop/BackdropDocument'
import { isMoving, liveParticlesOf, rendersClips } from '../backdrop/delivered'
import { kindOf, moves } from '../kinds'
import { autoplays } from './autoplays'

/** A situation a visitor may be in. */
export type Condition =
  | 'laptop'
  | 'phone'
  | 'reduced-motion'
  | 'data-saver'
  | 'no-script'
  | 'refused'
  | 'failed-file'
  | 'slow'

/** What shows in it, and why. */
export interface Outcome {
  readonly condition: Condition
  readonly label: string
  /** A clip or its poster; a base that needs none moves by style, stands still, or is not there. */
  readonly shows: 'clip' | 'poster' | 'motion' | 'still' | 'colour'
  readonly because: string
  /** Whether it is the designer's choice and not how browsers work. */
  readonly chosen: boolean
}

/** What shows in every condition, as the emitted markup and script behave. */
export function outcomes(document: BackdropDocument): Outcome[] {
  const own = rendersClips(document) ? outcomesOfClips(document) : outcomesOfStyle(document)
  return liveParticlesOf(document) ? [...own, SLOW] : own
}

/** What particles do where they cannot keep up. */
const SLOW: Outcome = {
  condition: 'slow',
  label: 'Slow machine',
  shows: 'motion',
  because: 'Fewer particles are drawn, in steps; in the end their first picture stays.',
  chosen: false,
}

/** Of a base without clips: what moves of it is moved by style. */
function outcomesOfStyle(document: BackdropDocument): Outcome[] {
  const { base, behaviour, weight } = document
  const { particles } = document
  const moving = isMoving(document)
  const here = moving ? 'motion' : 'still'
  const nothing = 'Nothing of it moves.'
  const outcome = (
    condition: Condition,
    label: string,
    shows: Outcome['shows'],
    because: string,
    chosen = false,
  ): Outcome => ({ condition, label, shows, because: moving ? because : nothing, chosen })
  const own = (each: Outcome): Outcome => {
    const { condition } = each
    const choice =
      condition === 'phone'
        ? behaviour.phone
        : condition === 'reduced-motion'
          ? behaviour.reducedMotion
          : condition === 'data-saver'
            ? behaviour.dataSaver
            : null
    return { ...each, ...kindOf(base).outcome?.(base, condition, choice) }
  }
  const asChosen = (choice: 'play' | 'poster'): Outcome['shows'] =>
    moving && choice === 'play' ? 'motion' : 'still'
  return [
    outcome(
      'laptop',
      'Laptop and wide',
      here,
      particles
        ? 'The script draws the particles; no clip is loaded.'
        : 'The style moves it; no clip is loaded.',
    ),
    outcome(
      'phone',
      'Phone',
      asChosen(behaviour.phone),
      behaviour.phone === 'play'
        ? 'As on other screens.'
        : `Stands still in windows up to ${weight.breakpoints.phone} px.`,
      moving,
    ),
    outcome(
      'reduced-motion',
      'Reduced motion',
      asChosen(behaviour.reducedMotion),
      behaviour.reducedMotion === 'play'
        ? 'Moves although the visitor prefers reduced motion.'
        : 'It stands as it is at the start.',
      moving,
    ),
    outcome(
      'data-saver',
      'Data saver',
      asChosen(behaviour.dataSaver),
      behaviour.dataSaver === 'play' ? 'Motion loads nothing more.' : 'The script stops it.',
      moving,
    ),
    particles && !moves(base)
      ? outcome(
          'no-script',
          'No script',
          'still',
          'Particles need the script: the base is shown alone.',
        )
      : outcome('no-script', 'No script', here, 'The style moves it, but nobody can pause it.'),
    ...(kindOf(base).pictures(base)
      ? [
          {
            condition: 'failed-file',
            label: 'File missing',
            shows: 'colour',
            because: 'The colour behind the image is shown.',
            chosen: false,
          } as const,
        ]
      : []),
  ].map(own)
}

/** Of footage: clip or poster. */
function outcomesOfClips(document: BackdropDocument): Outcome[] {
  const { behaviour, weight } = document
  const autoplay = autoplays(document)
  return [
    {
      condition: 'laptop',
      label: 'Laptop and wide',
      shows: 'clip',
      because: 'The clip starts after the poster has loaded.',
      chosen: false,
    },
    {
      condition: 'phone',
      label: 'Phone',
      shows: behaviour.phone === 'play' ? 'clip' : 'poster',
      chosen: true,
      because:
        behaviour.phone === 'play'
          ? 'A clip of its own width.'
          : `No clip is offered to windows up to ${weight.breakpoints.phone} px.`,
    },
    {
      condition: 'reduced-motion',
      label: 'Reduced motion',
      shows: behaviour.reducedMotion === 'play' ? 'clip' : 'poster',
      chosen: true,
      because:
        behaviour.reducedMotion === 'play'
          ? 'Plays although the visitor prefers reduced motion.'
          : 'Nothing moves, and no clip is loaded.',
    },
    {
      condition: 'data-saver',
      label: 'Data saver',
      shows: behaviour.dataSaver === 'play' ? 'clip' : 'poster',
      chosen: true,
      because:
        behaviour.dataSaver === 'play'
          ? 'Loads the clip although the visitor saves data.'
          : 'Only the poster is loaded.',
    },
    {
      condition: 'no-script',
      label: 'No script',
      shows: autoplay ? 'clip' : 'poster',
      chosen: true,
      because: autoplay
        ? 'Autoplay is in the markup, so the clip competes with the poster.'
        : 'The poster needs no script.',
    },
    {
      condition: 'refused',
      label: 'Autoplay refused',
      shows: 'poster',
      because: 'The script shows the poster.',
      chosen: false,
    },
    {
      condition: 'failed-file',
      label: 'File missing',
      shows: 'poster',
      because: 'The script shows the poster.',
      chosen: false,
    },
  ]
}
