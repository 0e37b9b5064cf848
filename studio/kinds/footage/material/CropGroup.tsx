import { FlipHorizontal2, RotateCcw, RotateCw } from 'lucide-react'
import {
  useEffect,
  useRef,
  useState,
  type CSSProperties,
  type KeyboardEvent,
  type PointerEvent,
  type RefObject,
} from 'react'
import type { ClipSource } from '../../../../core/api/wire'
import type { FootageDocument } from '../FootageDocument'
import { pictureSize } from '../../../../core/backdrop/recipe'
import { frameAt } from '../../../../core/media/presentation'
import {
  isPlain,
  moveEdge,
  PLAIN_SHAPE,
  type ShareRect,
  type Side,
} from '../../../../core/picture/pictureShape'
import { useClipIndex } from '../../../clip/useClipFrames'
import { useBackdrop } from '../../../state/backdropStore'
import { frameWorker } from '../../../state/frameWorker'
import { placeOf } from '../../../state/workStore'
import { Button, Group, Note, NumberField } from '../../../ui/controls'
import { sourcesOf } from '../clipOf'

const WHOLE: ShareRect = { x: 0, y: 0, width: 1, height: 1 }

/**
 * Crop and straighten: a picture with four edges to drag, typed pixels, quarter turns and flips.
 */
export function CropGroup({ document, source }: { document: FootageDocument; source: ClipSource }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const { picture } = document.base
  const crop = picture.crop ?? WHOLE
  const size = pictureSize(document, sourcesOf(source))
  const setCrop = (next: ShareRect, gesture: string | null = null): void =>
    dispatch({ type: 'picture/set', picture: { crop: isWhole(next) ? null : next } }, gesture)
  const turn = (by: number): void =>
    dispatch({
      type: 'picture/set',
      picture: { quarterTurns: (picture.quarterTurns + by + 4) % 4 },
    })
  return (
    <Group
      title="Crop and straighten"
      aside={isPlain(picture) ? 'uncropped' : `${size.width} × ${size.height} left`}
    >
      <CropBox source={source} document={document} crop={crop} onCrop={setCrop} />
      {!isPlain(picture) && (
        <Button
          onClick={() =>
            dispatch({
              type: 'picture/set',
              picture: { ...PLAIN_SHAPE, matte: picture.matte },
            })
          }
        >
          Reset crop
        </Button>
      )}
      <CropFields crop={crop} source={source} onCrop={setCrop} />
      <div className="flex flex-wrap gap-1.5">
        <Button onClick={() => turn(-1)} aria-label="Turn a quarter to the left">
          <RotateCcw className="size-4" aria-hidden />
          Turn left
        </Button>
        <Button onClick={() => turn(1)} aria-label="Turn a quarter to the right">
          <RotateCw className="size-4" aria-hidden />
          Turn right
        </Button>
        <Button
          aria-pressed={picture.mirrored}
          onClick={() =>
            dispatch({ type: 'picture/set', picture: { mirrored: !picture.mirrored } })
          }
          className="aria-pressed:border-curtain aria-pressed:text-curtain"
        >
          <FlipHorizontal2 className="size-4" aria-hidden />
          Flip
        </Button>
      </div>
      {size.width < 1280 && !isPlain(picture) && (
        <Note tone="look">
          The cropped picture is {size.width} pixels wide: on a laptop it is enlarged.
        </Note>
      )}
    </Group>
  )
}

function isWhole({ x, y, width, height }: ShareRect): boolean {
  return x < 0.0005 && y < 0.0005 && width > 0.9995 && height > 0.9995
}

/** The crop's edges as pixels of the upright picture, to be typed. */
function CropFields({
  crop,
  source,
  onCrop,
}: {
  crop: ShareRect
  source: ClipSource
  onCrop: (crop: ShareRect) => void
}) {
  const edges = edgesOf(crop, source.facts.video)
  return (
    <div className="grid grid-cols-4 gap-1.5">
      {(['left', 'top', 'right', 'bottom'] as const).map((side) => {
        const { value, size } = edges[side]
        return (
          <NumberField
            key={side}
            label={side.charAt(0).toUpperCase() + side.slice(1)}
            value={value * size}
            low={0}
            high={size}
            suffix="px"
            onChange={(pixels) => onCrop(moveEdge(crop, side, pixels / size))}
          />
        )
      })}
    </div>
  )
}

/** A canvas with the first frame of the cut, uncropped. */
function useUncropped(
  document: FootageDocument,
  source: ClipSource,
): RefObject<HTMLCanvasElement | null> {
  const { index } = useClipIndex(source)
  const canvas = useRef<HTMLCanvasElement>(null)
  const { cut } = document.base.timing
  const { matte } = document.base.picture
  const number = index ? frameAt(index, (cut.start * index.timescale) / cut.timescale) : null
  useEffect(() => {
    if (number === null) return
    const abort = new AbortController()
    frameWorker()
      .run(
        {
          type: 'frames',
          place: placeOf(source),
          numbers: [number],
          width: 720,
          coarse: false,
          shape: { ...PLAIN_SHAPE, matte },
        },
        {
          signal: abort.signal,
          onStep: ({ picture }) => {
            if (!canvas.current) return
            canvas.current.width = picture.width
            canvas.current.height = picture.height
            canvas.current.getContext('2d')!.drawImage(picture, 0, 0)
            picture.close()
          },
        },
      )
      .catch(() => undefined)
    return () => abort.abort()
  }, [source, number, matte])
  return canvas
}

interface Edge {
  /** Share of the picture's side, 0 to 1. */
  readonly value: number
  readonly style: CSSProperties
  /** The side's length in pixels. */
  readonly size: number
}

function edgesOf(
  crop: ShareRect,
  {
    displayWidth,
    displayHeight,
  }: Pick<ClipSource['facts']['video'], 'displayWidth' | 'displayHeight'>,
): Record<Side, Edge> {
  return {
    left: {
      value: crop.x,
      style: { left: `${crop.x * 100}%`, top: `${crop.y * 100}%`, height: `${crop.height * 100}%` },
      size: displayWidth,
    },
    right: {
      value: crop.x + crop.width,
      style: {
        left: `${(crop.x + crop.width) * 100}%`,
        top: `${crop.y * 100}%`,
        height: `${crop.height * 100}%`,
      },
      size: displayWidth,
    },
    top: {
      value: crop.y,
      style: { top: `${crop.y * 100}%`, left: `${crop.x * 100}%`, width: `${crop.width * 100}%` },
      size: displayHeight,
    },
    bottom: {
      value: crop.y + crop.height,
      style: {
        top: `${(crop.y + crop.height) * 100}%`,
        left: `${crop.x * 100}%`,
        width: `${crop.width * 100}%`,
      },
      size: displayHeight,
    },
  }
}

/** The upright picture with the crop on it; each edge is a handle. */
function CropBox({
  document,
  source,
  crop,
  onCrop,
}: {
  document: FootageDocument
  source: ClipSource
  crop: ShareRect
  onCrop: (crop: ShareRect, gesture: string) => void
}) {
  const canvas = useUncropped(document, source)
  const box = useRef<HTMLDivElement>(null)
  const [gesture, setGesture] = useState('')
  const { displayWidth, displayHeight } = source.facts.video
  const at = (event: PointerEvent, side: Side): number => {
    const bounds = box.current!.getBoundingClientRect()
    return side === 'left' || side === 'right'
      ? (event.clientX - bounds.left) / bounds.width
      : (event.clientY - bounds.top) / bounds.height
  }
  const edges = edgesOf(crop, source.facts.video)
  const press =
    (side: Side) =>
    (event: KeyboardEvent): void => {
      const sideways = side === 'left' || side === 'right'
      const by = (sideways ? { ArrowLeft: -1, ArrowRight: 1 } : { ArrowUp: -1, ArrowDown: 1 })[
        event.key as 'ArrowLeft'
      ]
      if (!by) return
      event.preventDefault()
      onCrop(
        moveEdge(
          crop,
          side,
          edges[side].value + (by * (event.shiftKey ? 20 : 2)) / edges[side].size,
        ),
        gesture,
      )
    }
  return (
    <div
      ref={box}
      className="relative select-none"
      style={{ aspectRatio: `${displayWidth} / ${displayHeight}` }}
    >
      <div className="absolute inset-0 overflow-hidden rounded-sm bg-surround">
        <canvas
          ref={canvas}
          role="img"
          aria-label="The first frame of the cut, uncropped"
          className="absolute inset-0 size-full"
        />
        <div
          aria-hidden
          className="absolute border border-white shadow-[0_0_0_2000px_rgb(0_0_0/0.55)]"
          style={{
            left: `${crop.x * 100}%`,
            top: `${crop.y * 100}%`,
            width: `${crop.width * 100}%`,
            height: `${crop.height * 100}%`,
          }}
        />
      </div>
      {(Object.keys(edges) as Side[]).map((side) => {
        const sideways = side === 'left' || side === 'right'
        const pixels = Math.round(edges[side].value * edges[side].size)
        return (
          <button
            key={side}
            type="button"
            role="slider"
            aria-label={`${side} edge of the crop`}
            aria-orientation={sideways ? 'horizontal' : 'vertical'}
            aria-valuemin={0}
            aria-valuemax={edges[side].size}
            aria-valuenow={pixels}
            aria-valuetext={`${pixels} pixels`}
            className={`absolute touch-none ${sideways ? 'w-4 -translate-x-1/2 cursor-ew-resize' : 'h-4 -translate-y-1/2 cursor-ns-resize'}`}
            style={edges[side].style}
            onPointerDown={(event) => {
              setGesture(crypto.randomUUID())
              event.currentTarget.setPointerCapture(event.pointerId)
            }}
            onPointerMove={(event) =>
              event.currentTarget.hasPointerCapture(event.pointerId) &&
              onCrop(moveEdge(crop, side, at(event, side)), gesture)
            }
            onFocus={() => setGesture(crypto.randomUUID())}
            onKeyDown={press(side)}
          >
            <span
              className={`absolute rounded-full bg-white shadow-[0_0_0_1px_rgb(0_0_0/0.6)] ${sideways ? 'top-1/2 left-1/2 h-8 w-1.5 -translate-1/2' : 'top-1/2 left-1/2 h-1.5 w-8 -translate-1/2'}`}
            />
          </button>
        )
      })}
    </div>
  )
}
