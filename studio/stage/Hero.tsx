import { useQuery } from '@tanstack/react-query'
import { useEffect, useLayoutEffect, useRef, useState } from 'react'
import type { Rendition } from '../../core/api/wire'
import { posterRecipes, proofRecipe, recipeKey } from '../../core/backdrop/recipe'
import { SCREENS } from '../../core/fit/screens'
import { kindOf } from '../../core/kinds'
import { api } from '../api/client'
import { keys } from '../api/queries'
import { loadedSources } from '../state/loadedSources'
import { madeClip, madePosters } from './madeMedia'
import { StageFrame } from './StageFrame'

const { width: WIDTH } = SCREENS.laptop
const HEIGHT = 720

/**
 * What a backdrop shows of itself: its document with the proof and posters that are rendered.
 */
async function loadHero(backdropId: string) {
  const record = await api.readBackdrop(backdropId)
  const { base } = record.document
  const refs = kindOf(base).sources(base)
  const all = await Promise.all(refs.map(({ sourceId }) => api.readSource(sourceId)))
  const from = loadedSources(all).known
  const proof = proofRecipe(record.document, from)
  const posters = posterRecipes(record.document, from)
  const wanted = [...(proof ? [proof] : []), ...posters.map(({ recipe }) => recipe)].map(recipeKey)
  const found = new Map(
    (await api.findRenditions(wanted)).map((rendition): [string, Rendition] => [
      rendition.key,
      rendition,
    ]),
  )
  const clip = proof && madeClip(found.get(recipeKey(proof)), 'wide', proof)
  const media = { clips: clip ? [clip] : [], ...madePosters(posters, (key) => found.get(key)) }
  return { document: record.document, media, name: record.name }
}

/** A backdrop to look at: the emitted page, playing its proof, not open for work. */
export function Hero({ backdropId }: { backdropId: string }) {
  const { data: value } = useQuery({
    queryKey: [...keys.backdrop(backdropId), 'hero'],
    queryFn: () => loadHero(backdropId),
  })
  const box = useRef<HTMLDivElement>(null)
  const iframe = useRef<HTMLIFrameElement>(null)
  const [scale, setScale] = useState(0.4)
  const [ready, setReady] = useState(false)
  useLayoutEffect(() => {
    const observer = new ResizeObserver(() => setScale((box.current?.clientWidth ?? 500) / WIDTH))
    observer.observe(box.current!)
    return () => observer.disconnect()
  }, [])
  useEffect(() => {
    if (!ready || !value) return
    new StageFrame(
      iframe.current!,
      () => undefined,
      () => undefined,
    ).show(value.document, value.media)
  }, [ready, value])
  return (
    <div ref={box} className="aspect-video overflow-hidden bg-surround">
      <iframe
        ref={iframe}
        inert
        title={value ? `${value.name}, playing` : 'A backdrop'}
        src="/stage.html"
        tabIndex={-1}
        onLoad={() => setReady(true)}
        className="pointer-events-none origin-top-left border-0"
        style={{ width: WIDTH, height: HEIGHT, transform: `scale(${scale})` }}
      />
    </div>
  )
}
