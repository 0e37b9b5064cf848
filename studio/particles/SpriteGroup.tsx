import { X } from 'lucide-react'
import type { Definition } from '../../core/particles/Definition'
import { MAX_SPRITES } from '../../core/particles/sprites'
import { AddImage } from '../shelf/AddImage'
import { Button, Group, Slider, Toggle } from '../ui/controls'
import { formatBytes } from '../ui/format'
import { makeSprite } from './makeSprite'
import { useParticles } from './useParticles'

type Shapes = Definition['shapes']

/** What is drawn where the last sprite is taken away. */
const FIRST_SHAPE: Shapes = [{ shape: 'disc', weight: 1 }]
const bytesOf = (address: string): number =>
  Math.floor(((address.length - address.indexOf(',') - 1) * 3) / 4)

/** Images from the shelf in place of shapes. */
export function SpriteGroup({
  definition,
  projectId,
}: {
  definition: Definition
  projectId: string
}) {
  const { define } = useParticles(definition)
  const { shapes } = definition
  const sprites = shapes.filter(({ sprite }) => sprite !== undefined)
  const bytes = sprites.reduce((sum, { sprite }) => sum + bytesOf(sprite!), 0)
  const change = (at: number, entry: Partial<Shapes[number]>, gesture: string | null): void =>
    define({ shapes: shapes.with(at, { ...shapes[at]!, ...entry }) }, gesture)
  return (
    <Group title="Sprites" aside={sprites.length > 0 ? formatBytes(bytes) : 'images as particles'}>
      {shapes.map(({ sprite, tinted = false, weight }, at) =>
        sprite === undefined ? null : (
          <div key={sprite} className="grid grid-cols-[3rem_1fr_auto] items-center gap-x-3 gap-y-1">
            <img
              src={sprite}
              alt=""
              className="row-span-2 size-12 rounded border border-line bg-[#55544f] object-contain"
            />
            <Toggle
              label="In the colours of the palette"
              enabled={tinted}
              onChange={(next) => change(at, { tinted: next }, null)}
            />
            <Button
              tone="quiet"
              className="px-1.5!"
              aria-label="Take this sprite away"
              onClick={() => {
                const left = shapes.toSpliced(at, 1)
                define({ shapes: left.length > 0 ? left : FIRST_SHAPE })
              }}
            >
              <X className="size-4" aria-hidden />
            </Button>
            {shapes.length > 1 && (
              <Slider
                label="How often"
                value={weight}
                low={1}
                high={Math.max(10, weight)}
                step={1}
                shown={String(weight)}
                onChange={(next, gesture) => change(at, { weight: next }, gesture)}
              />
            )}
          </div>
        ),
      )}
      {sprites.length < MAX_SPRITES ? (
        <>
          <AddImage
            projectId={projectId}
            label="Add an image from the shelf"
            emptyText="There is no image on the shelf. Add a small one there (PNG, WebP, AVIF or SVG, best with transparent parts) to draw it in place of a shape."
            make={(loaded) => makeSprite(loaded, definition.size.to)}
            onAdd={(sprite) => {
              // The first one takes the place of all shapes: it is what one wants to see.
              const kept = sprites.length > 0 ? shapes.filter((each) => each.sprite !== sprite) : []
              define({ shapes: [...kept, { sprite, weight: 1 }] })
            }}
          />
          <p className="text-xs text-muted">
            A small copy, made for the largest size, becomes part of the definition: what happens on
            the shelf does not change it.
          </p>
        </>
      ) : (
        <p className="text-xs text-muted">There are {MAX_SPRITES}, the most that is possible.</p>
      )}
    </Group>
  )
}
