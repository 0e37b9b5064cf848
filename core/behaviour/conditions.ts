import type { BackdropDocument } from '../backdrop/BackdropDocument'

/** A situation a visitor may be in. */
export type Condition =
  'laptop' | 'phone' | 'reduced-motion' | 'data-saver' | 'no-script' | 'refused' | 'failed-file'

/** What shows in it, and why. */
export interface Outcome {
  readonly condition: Condition
  readonly label: string
  readonly shows: 'clip' | 'poster'
  readonly because: string
  /** Whether it is the designer's choice and not how browsers work. */
  readonly chosen: boolean
}

/** What shows in every condition, as the emitted markup and script behave. */
export function outcomes({ behaviour, weight }: BackdropDocument): Outcome[] {
  const autoplay = behaviour.autoplayInMarkup
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
