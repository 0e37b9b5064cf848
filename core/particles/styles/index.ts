import { definitionSchema, type Definition } from '../Definition'
import beamDust from './beam-dust.json'
import driftingRings from './drifting-rings.json'
import emberDrift from './ember-drift.json'
import facetField from './facet-field.json'
import fireflyDusk from './firefly-dusk.json'
import firstFrost from './first-frost.json'
import grainCurrent from './grain-current.json'
import gustOfLeaves from './gust-of-leaves.json'
import lampDiscs from './lamp-discs.json'
import lanternNight from './lantern-night.json'
import midnightTurn from './midnight-turn.json'
import paperDay from './paper-day.json'
import petalFall from './petal-fall.json'
import quietSnowfall from './quiet-snowfall.json'
import routeNet from './route-net.json'
import slantRain from './slant-rain.json'
import starRoom from './star-room.json'
import uneasyAutumn from './uneasy-autumn.json'
import valleyMist from './valley-mist.json'

/** The groups of styles, in the order in which they are shown. */
export const STYLE_GROUPS = ['weather', 'light', 'geometry', 'seasons'] as const
export type StyleGroup = (typeof STYLE_GROUPS)[number]

/** A definition that designers begin with: one file of this folder. */
export interface Style {
  /** The name of its file. */
  readonly id: string
  readonly group: StyleGroup
  readonly definition: Definition
}

const FILES: Readonly<Record<StyleGroup, Readonly<Record<string, unknown>>>> = {
  weather: {
    'quiet-snowfall': quietSnowfall,
    'slant-rain': slantRain,
    'valley-mist': valleyMist,
    'gust-of-leaves': gustOfLeaves,
  },
  light: {
    'ember-drift': emberDrift,
    'beam-dust': beamDust,
    'firefly-dusk': fireflyDusk,
    'lamp-discs': lampDiscs,
    'star-room': starRoom,
  },
  geometry: {
    'route-net': routeNet,
    'facet-field': facetField,
    'drifting-rings': driftingRings,
    'grain-current': grainCurrent,
  },
  seasons: {
    'first-frost': firstFrost,
    'petal-fall': petalFall,
    'lantern-night': lanternNight,
    'uneasy-autumn': uneasyAutumn,
    'paper-day': paperDay,
    'midnight-turn': midnightTurn,
  },
}

/** Every style, group by group. */
export const STYLES: readonly Style[] = STYLE_GROUPS.flatMap((group) =>
  Object.entries(FILES[group]).map(([id, file]) => ({
    id,
    group,
    definition: definitionSchema.parse(file),
  })),
)

/** A style by its id; undefined where there is none. */
export const styleOf = (id: string | null): Style | undefined =>
  STYLES.find((style) => style.id === id)
