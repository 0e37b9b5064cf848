import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from '@headlessui/react'
import { ChevronDown } from 'lucide-react'
import type { BlendMode } from '../../../core/picture/blend'
import { playedCost } from '../../../core/scrim/blendCost'
import { withLayer, type Scrim } from '../../../core/scrim/Scrim'
import { SeenScrim } from './SeenScrim'
import { useStagePicture, type StagePicture } from './useStagePicture'

export const BLEND_NAMES: Readonly<Record<BlendMode, string>> = {
  normal: 'Normal',
  multiply: 'Multiply',
  darken: 'Darken',
  screen: 'Screen',
  lighten: 'Lighten',
  overlay: 'Overlay',
  'soft-light': 'Soft light',
  'hard-light': 'Hard light',
  color: 'Colour',
  saturation: 'Saturation',
  luminosity: 'Luminosity',
  difference: 'Difference',
  exclusion: 'Exclusion',
}

const GROUPS: readonly (readonly [name: string, modes: readonly BlendMode[]])[] = [
  ['Covering', ['normal']],
  ['Darkening', ['multiply', 'darken']],
  ['Lightening', ['screen', 'lighten']],
  ['Tinting', ['overlay', 'soft-light', 'hard-light', 'color', 'saturation', 'luminosity']],
  ['Inverting', ['difference', 'exclusion']],
]

/** How much of a row a group takes, by how many modes it has. */
const SPANS: Readonly<Record<number, string>> = { 1: 'col-span-1', 2: 'col-span-2' }
const COLUMNS: Readonly<Record<number, string>> = { 1: 'grid-cols-1', 2: 'grid-cols-2' }
const WHOLE = 'col-span-3'

/** How a layer is mixed with what is behind it: each mode on the frame that the stage shows. */
export function BlendPicker({
  scrim,
  index,
  onChange,
}: {
  readonly scrim: Scrim
  readonly index: number
  readonly onChange: (blend: BlendMode) => void
}) {
  const layer = scrim.layers[index]!
  return (
    <Listbox value={layer.blend} onChange={onChange}>
      <ListboxButton
        aria-label={`Blend mode: ${BLEND_NAMES[layer.blend]}`}
        className="flex min-h-8 w-full items-center gap-2 rounded border border-line-strong/60 bg-white px-2.5"
      >
        <span className="text-muted">Blend mode</span>
        <span className="ml-auto">{BLEND_NAMES[layer.blend]}</span>
        <ChevronDown className="size-3.5 text-muted" aria-hidden />
      </ListboxButton>
      <ListboxOptions
        anchor={{ to: 'bottom end', gap: 4, padding: 8 }}
        className="z-30 w-80 rounded-md border border-line bg-sheet p-2 shadow-lg outline-none"
      >
        <Modes scrim={scrim} index={index} />
      </ListboxOptions>
    </Listbox>
  )
}

/** Made when the list opens: until then no frame is taken from the stage. */
function Modes({ scrim, index }: { readonly scrim: Scrim; readonly index: number }) {
  const picture = useStagePicture()
  const layer = scrim.layers[index]!
  return (
    <>
      <p className="mb-1 text-xs text-muted">
        On the frame that the stage shows. CPU: of a playing clip with the layer, without a graphics
        processor; 1 is the clip alone.
      </p>
      <div className="grid grid-cols-3 gap-x-1.5">
        {GROUPS.map(([name, modes]) => (
          <div key={name} role="group" aria-label={name} className={SPANS[modes.length] ?? WHOLE}>
            <h3 className="mt-1.5 mb-1 text-xs text-muted">{name}</h3>
            <div className={`grid gap-1.5 ${COLUMNS[modes.length] ?? 'grid-cols-3'}`}>
              {modes.map((blend) => (
                <ListboxOption
                  key={blend}
                  value={blend}
                  className="cursor-pointer overflow-hidden rounded border border-line bg-white data-focus:outline-2 data-focus:outline-curtain data-selected:border-curtain data-selected:ring-1 data-selected:ring-curtain"
                >
                  <Seen scrim={withLayer(scrim, index, { ...layer, blend })} picture={picture} />
                  <span className="block truncate px-1.5 pt-0.5 text-xs">{BLEND_NAMES[blend]}</span>
                  <span className="block px-1.5 pb-0.5 font-mono text-[0.68rem] text-muted">
                    CPU {playedCost(blend).toFixed(1)}
                  </span>
                </ListboxOption>
              ))}
            </div>
          </div>
        ))}
      </div>
    </>
  )
}

/** A scrim over a picture, as browsers draw it. */
export function Seen({
  scrim,
  picture,
}: {
  readonly scrim: Scrim
  readonly picture: StagePicture | null
}) {
  return (
    <span
      aria-hidden
      className="relative isolate block aspect-[16/9] bg-[#26314a] bg-cover bg-center"
      style={picture ? { backgroundImage: `url(${picture.address})` } : {}}
    >
      <SeenScrim scrim={scrim} />
    </span>
  )
}
