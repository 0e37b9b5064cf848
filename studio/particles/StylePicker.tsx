import { Radio, RadioGroup } from '@headlessui/react'
import { useEffect, useRef, useState } from 'react'
import { newParticles, type Particles } from '../../core/particles/Particles'
import { drawLinks } from '../../core/particles/links'
import { painterOf } from '../../core/particles/Painter'
import { prepare } from '../../core/particles/prepare'
import { STYLE_GROUPS, STYLES, type Style, type StyleGroup } from '../../core/particles/styles'
import { useBackdrop } from '../state/backdropStore'
import { useStage } from '../state/stageStore'
import { useParticleView } from './particleView'

const GROUP_NAMES: Readonly<Record<StyleGroup, string>> = {
  weather: 'Weather',
  light: 'Light',
  geometry: 'Geometry',
  seasons: 'Seasons',
}

const NONE = 'none'
const OWN = 'own'
/** The area that a small picture shows, in CSS pixels: a part of a screen, so that much is seen. */
const AREA = { width: 560, height: 330 } as const
const SHOWN_WIDTH = 168
/** Small pictures move enough at this rate: there are many of them. */
const INTERVAL_MS = 1000 / 10
/** How often the base is looked at, as long as there is no picture of it. */
const LOOK_MS = 500

const TILE =
  'cursor-pointer overflow-hidden rounded border border-line bg-white data-checked:border-curtain data-checked:ring-1 data-checked:ring-curtain data-focus:outline-2 data-focus:outline-offset-2 data-focus:outline-curtain'

/** The styles, each moving over the designer's own base; none, or a definition of one's own. */
export function StylePicker({ particles }: { particles: Particles | null }) {
  const dispatch = useBackdrop((state) => state.dispatch)
  const base = useBasePicture()
  const { set } = useParticleView()
  const value = particles === null ? NONE : (particles.style ?? OWN)
  const choose = (id: string): void => {
    const style = STYLES.find((each) => each.id === id)
    if (style) {
      const { definition, id } = style
      const kept = particles && {
        frameRate: particles.frameRate,
        follows: particles.follows,
        form: particles.form,
      }
      dispatch({ type: 'particles/set', particles: { ...newParticles(definition, id), ...kept } })
    } else if (id === NONE) dispatch({ type: 'particles/set', particles: null })
    else {
      const begun = particles ?? newParticles(STYLES[0]!.definition, null)
      dispatch({ type: 'particles/set', particles: { ...begun, style: null } })
      set({ deck: 'definition' })
    }
  }
  return (
    <RadioGroup value={value} onChange={choose} aria-label="Particles" className="grid gap-2">
      <div className="grid grid-cols-2 gap-2">
        <Radio value={NONE} className={`${TILE} px-2.5 py-1.5 font-medium`}>
          None
        </Radio>
        <Radio value={OWN} className={`${TILE} px-2.5 py-1.5`}>
          <span className="block truncate font-medium">
            {value === OWN && particles!.definition.name ? particles!.definition.name : 'Your own'}
          </span>
          <span className="block text-xs text-muted">a definition as text</span>
        </Radio>
      </div>
      {STYLE_GROUPS.map((group) => (
        <div key={group} role="group" aria-label={GROUP_NAMES[group]}>
          <h3 className="mb-1 text-xs text-muted">{GROUP_NAMES[group]}</h3>
          <div className="grid grid-cols-2 gap-2">
            {STYLES.filter((style) => style.group === group).map((style) => (
              <Radio key={style.id} value={style.id} className={TILE}>
                <MovingStyle style={style} base={base} />
                <span className="block truncate px-2 py-1 text-[0.82rem]">
                  {style.definition.name}
                </span>
              </Radio>
            ))}
          </div>
        </div>
      ))}
    </RadioGroup>
  )
}

/** The base as the stage shows it, small; null until there is a picture of it. */
function useBasePicture(): OffscreenCanvas | null {
  const snapshot = useStage((state) => state.snapshot)
  const base = useBackdrop((state) => state.document?.base)
  const [picture, setPicture] = useState<OffscreenCanvas | null>(null)
  useEffect(() => {
    const look = (): void => {
      const taken = snapshot(2 * SHOWN_WIDTH)
      if (!taken) return
      setPicture(taken)
      clearInterval(timer)
    }
    const timer = setInterval(look, LOOK_MS)
    return () => clearInterval(timer)
  }, [snapshot, base])
  return picture
}

/** A style over a base, moving while it is seen and the device wants motion. */
function MovingStyle({ style, base }: { style: Style; base: OffscreenCanvas | null }) {
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    const element = canvas.current!
    const density = (SHOWN_WIDTH / AREA.width) * Math.min(2, devicePixelRatio)
    element.width = Math.round(AREA.width * density)
    element.height = Math.round(AREA.height * density)
    const shown = element.getContext('2d')!
    const layer = new OffscreenCanvas(element.width, element.height)
    const draw = painterOf(prepare(style.definition), AREA, density, [drawLinks])
    const paint = (seconds: number): void => {
      draw(layer.getContext('2d')!, seconds)
      shown.globalCompositeOperation = 'source-over'
      if (base) shown.drawImage(base, 0, 0, element.width, element.height)
      else {
        shown.fillStyle = '#26314a'
        shown.fillRect(0, 0, element.width, element.height)
      }
      // Light is added to what is below, as on the stage.
      shown.drawImage(layer, 0, 0)
    }
    let handle = 0
    let last = -Infinity
    const turn = (now: number): void => {
      handle = requestAnimationFrame(turn)
      if (now - last < INTERVAL_MS || useParticleView.getState().quiet) return
      last = now
      paint(now / 1000)
    }
    const calm = matchMedia('(prefers-reduced-motion: reduce)')
    const observer = new IntersectionObserver(([entry]) => {
      cancelAnimationFrame(handle)
      if (entry!.isIntersecting && !calm.matches) handle = requestAnimationFrame(turn)
    })
    paint(style.definition.period / 3)
    observer.observe(element)
    return () => {
      cancelAnimationFrame(handle)
      observer.disconnect()
    }
  }, [style, base])
  return <canvas ref={canvas} aria-hidden className="block aspect-[56/33] w-full" />
}
