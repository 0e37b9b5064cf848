import { pictureOf } from '../core/api/knownSource'
import type { BackdropDocument, DocumentOf } from '../core/backdrop/BackdropDocument'
import { createBackdrop } from '../core/backdrop/createBackdrop'
import { createFootage } from '../core/kinds/footage/createFootage'
import { createImage } from '../core/kinds/image/Image'
import { newParticles } from '../core/particles/Particles'
import { styleOf } from '../core/particles/styles'
import { createPaint, newGradient } from '../core/kinds/paint/Paint'
import { createSlideshow } from '../core/kinds/slideshow/Slideshow'
import type { MediaFacts } from '../core/media/probe'
import { evenScrim, linearLayer } from '../core/scrim/Scrim'

/**
 * Vesperline, a made-up night-train company: its pages, its clips, and one backdrop half prepared.
 */
export const SCENARIO = {
  project: 'Vesperline',
  brand: {
    colors: [
      { name: 'Night', color: '#14101c', isLocked: false },
      { name: 'Indigo', color: '#1b2350', isLocked: false },
      { name: 'Ember', color: '#f2b872', isLocked: false },
      { name: 'Copper', color: '#b5563c', isLocked: false },
      { name: 'Snow', color: '#f6f1e7', isLocked: true },
    ],
    typefaces: [{ name: 'Headings', family: 'ui-serif, serif', weight: 650 }],
  },
  pages: [
    {
      name: 'Home',
      spots: [
        { name: 'Hero', scope: 'region', height: { unit: 'svh', value: 100 } },
        { name: 'Newsletter band', scope: 'region', height: { unit: 'px', value: 420 } },
      ],
    },
    {
      name: 'Routes',
      spots: [{ name: 'Header', scope: 'region', height: { unit: 'svh', value: 60 } }],
    },
    {
      name: 'Cabins',
      spots: [{ name: 'Whole page', scope: 'page', height: { unit: 'svh', value: 100 } }],
    },
    { name: 'Timetable', spots: [] },
    {
      name: 'Journal',
      spots: [{ name: 'Masthead', scope: 'region', height: { unit: 'svh', value: 80 } }],
    },
  ],
  clips: [
    'dusk-window.mov',
    'aurora-fjord.webm',
    'rain-platform.mp4',
    'viaduct-crossing.mp4',
    'archive-reel.mp4',
    'tunnel-mouth.mp4',
    'harbour-lights.mp4',
  ],
  pictures: [
    'signal-blink.gif',
    'first-snow.jpg',
    'fjord-night.webp',
    'window-seat.png',
    'route-map.svg',
    'stop-snow-line.jpg',
    'cabin-berth.jpg',
    'stop-lakeside.jpg',
    'cabin-corridor.jpg',
    'stop-salt-flats.jpg',
  ],
  sets: [
    { name: 'Winter slides', pictures: ['first-snow.jpg', 'fjord-night.webp', 'window-seat.png'] },
    {
      name: 'Cabins and stops',
      pictures: [
        'stop-snow-line.jpg',
        'cabin-berth.jpg',
        'stop-lakeside.jpg',
        'stop-salt-flats.jpg',
        'cabin-corridor.jpg',
      ],
    },
  ],
  backdrop: { name: 'Dusk window', clip: 'dusk-window.mov', page: 'Home', spot: 'Hero' },
  image: { name: 'Fjord at night', picture: 'fjord-night.webp', page: 'Routes', spot: 'Header' },
  embers: { name: 'Galley fire', picture: 'cabin-corridor.jpg', page: 'Home', spot: 'Hero' },
  slideshow: { name: 'Winter stops', set: 'Cabins and stops', page: 'Journal', spot: 'Masthead' },
  paint: { name: 'Cabin light', page: 'Cabins', spot: 'Whole page' },
} as const

const LINKS = ['Routes', 'Cabins', 'Timetable', 'Journal']

/**
 * The half-prepared backdrop: cut behind the title card, with copy, and a scrim that is not strong
 * enough yet.
 */
export function demoBackdrop(sourceId: string, facts: MediaFacts): DocumentOf<'footage'> {
  const made = createBackdrop({
    base: createFootage({ sourceId, facts }),
    picture: pictureOf(facts),
    scope: 'region',
    height: { unit: 'svh', value: 100 },
    brand: SCENARIO.project,
  })
  const { timescale } = facts.video
  return {
    ...made,
    base: {
      ...made.base,
      timing: {
        ...made.base.timing,
        cut: { timescale, start: 2 * timescale, end: 10 * timescale },
      },
    },
    copy: {
      ...made.copy,
      links: LINKS,
      heading: 'Fall asleep in one country, wake in the next',
      body: 'Night trains with real beds, quiet hours and breakfast at the window.',
      button: { label: 'Find a berth', href: '#berths' },
    },
    scrim: { layers: [linearLayer('#14101f', [0.55, 0.05], 80)] },
    fit: { ...made.fit, focal: { x: 0.62, y: 0.5 } },
  }
}

/** An image with a slow pan, under a strong heading. */
export function demoImage(
  sourceId: string,
  picture: { readonly width: number; readonly height: number },
): BackdropDocument {
  const made = createBackdrop({
    base: {
      ...createImage(sourceId),
      background: '#06141c',
      drift: {
        from: { x: 0, y: 0.08, zoom: 1.12 },
        to: { x: 0.1, y: 0, zoom: 1.12 },
        seconds: 48,
      },
    },
    picture,
    scope: 'region',
    height: { unit: 'svh', value: 60 },
    brand: SCENARIO.project,
  })
  return {
    ...made,
    copy: {
      ...made.copy,
      links: LINKS,
      heading: 'Nine routes under the northern lights',
      body: 'From October to March the last carriage has a glass roof.',
      button: { label: 'See the routes', href: '#routes' },
    },
  }
}

/** Embers over an image. */
export function demoEmbers(
  sourceId: string,
  picture: { readonly width: number; readonly height: number },
): BackdropDocument {
  const made = createBackdrop({
    base: { ...createImage(sourceId), background: '#1c1210' },
    picture,
    scope: 'region',
    height: { unit: 'svh', value: 100 },
    brand: SCENARIO.project,
  })
  const embers = styleOf('ember-drift')!
  return {
    ...made,
    particles: newParticles(embers.definition, embers.id),
    copy: {
      ...made.copy,
      links: LINKS,
      heading: 'Dinner after the last border',
      body: 'The galley keeps its fire until midnight. Two sittings, one long table.',
      button: { label: 'Reserve a table', href: '#table' },
    },
    scrim: { layers: [linearLayer('#14101c', [0.6, 0.1], 90)] },
  }
}

/** A slideshow of cabins and stops, one of them too bright for its words. */
export function demoSlideshow(
  sourceIds: readonly string[],
  setId: string,
  picture: { readonly width: number; readonly height: number },
): BackdropDocument {
  const base = createSlideshow(sourceIds, setId)
  const made = createBackdrop({
    base: {
      ...base,
      slides: base.slides.map((slide, index) =>
        index === 2 ? { ...slide, holdSeconds: 5.5 } : slide,
      ),
      controls: { arrows: false, markers: true, place: 'bottom-centre' },
    },
    picture,
    scope: 'region',
    height: { unit: 'svh', value: 80 },
    brand: SCENARIO.project,
  })
  return {
    ...made,
    copy: {
      ...made.copy,
      links: LINKS,
      heading: 'Sleep through the snow line',
      body: 'Five stops above a thousand metres, and a berth with a window to each.',
      button: { label: 'See the stops', href: '#stops' },
    },
    scrim: { layers: [linearLayer('#14101c', [0.5, 0.1], 90)] },
  }
}

/** A paint of two gradients that turns slowly behind a whole page. */
export function demoPaint(): BackdropDocument {
  const made = createBackdrop({
    base: {
      ...createPaint(),
      color: '#1d1430',
      gradients: [
        { ...newGradient('#1d1430', '#7a3b3f'), angleDeg: 150 },
        {
          ...newGradient('#f2b872', '#1d1430'),
          shape: 'radial',
          centre: { x: 0.78, y: 0.32 },
          radius: 0.62,
          opacity: 0.7,
        },
      ],
      blend: 'screen',
      motion: { moves: 'centre', amount: 0.4, seconds: 36 },
    },
    picture: null,
    scope: 'page',
    height: { unit: 'svh', value: 100 },
    brand: SCENARIO.project,
  })
  return {
    ...made,
    copy: {
      ...made.copy,
      links: LINKS,
      heading: 'A door of your own, and a lamp to read by',
      body: 'Cabins for one to four, made up before you board.',
      button: { label: 'Choose a cabin', href: '#cabins' },
    },
    scrim: evenScrim('#14101c', 0.2),
  }
}
