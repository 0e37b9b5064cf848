import type { BackdropDocument } from '../core/backdrop/BackdropDocument'
import { createBackdrop } from '../core/backdrop/createBackdrop'
import type { MediaFacts } from '../core/media/probe'

/**
 * Vesperline, a made-up night-train company: its pages, its clips, and one backdrop half prepared.
 */
export const SCENARIO = {
  project: 'Vesperline',
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
    { name: 'Journal', spots: [] },
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
  ],
  sets: [
    { name: 'Winter slides', pictures: ['first-snow.jpg', 'fjord-night.webp', 'window-seat.png'] },
  ],
  backdrop: { name: 'Dusk window', clip: 'dusk-window.mov', page: 'Home', spot: 'Hero' },
} as const

/**
 * The half-prepared backdrop: cut behind the title card, with copy, and a scrim that is not strong
 * enough yet.
 */
export function demoBackdrop(sourceId: string, facts: MediaFacts): BackdropDocument {
  const made = createBackdrop({
    sourceId,
    facts,
    scope: 'region',
    height: { unit: 'svh', value: 100 },
    brand: SCENARIO.project,
  })
  const { timescale } = facts.video
  return {
    ...made,
    timing: { ...made.timing, cut: { timescale, start: 2 * timescale, end: 10 * timescale } },
    copy: {
      ...made.copy,
      links: ['Routes', 'Cabins', 'Timetable', 'Journal'],
      heading: 'Fall asleep in one country, wake in the next',
      body: 'Night trains with real beds, quiet hours and breakfast at the window.',
      button: { label: 'Find a berth', href: '#berths' },
    },
    scrim: {
      ...made.scrim,
      kind: 'gradient',
      color: '#14101f',
      strength: 0.55,
      toColor: '#14101f',
      toStrength: 0.05,
      angleDeg: 80,
    },
    fit: { ...made.fit, focal: { x: 0.62, y: 0.5 } },
  }
}
