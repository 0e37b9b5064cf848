import { assertNever } from '../../result'
import type { ImageBase } from './Image'

/** What of an image is decided besides which one it is. */
type ImageFields = Partial<Omit<ImageBase, 'kind' | 'material'>>

/** Every change of an image. Values are already valid. */
export type ImageAction =
  | { readonly type: 'image/swap'; readonly sourceId: string }
  | { readonly type: 'image/set'; readonly image: ImageFields }

/** The image after an action; the same object when nothing changes. */
export function reduceImage(base: ImageBase, action: ImageAction): ImageBase {
  switch (action.type) {
    case 'image/swap':
      return action.sourceId === base.material.sourceId
        ? base
        : { ...base, material: { sourceId: action.sourceId } }
    case 'image/set': {
      const next = { ...base, ...action.image }
      return JSON.stringify(next) === JSON.stringify(base) ? base : next
    }
    default:
      return assertNever(action)
  }
}

const LABELS: Readonly<Record<keyof ImageFields, string>> = {
  placing: 'how the image is placed',
  tileWidth: 'tile size',
  background: 'colour behind the image',
  opacity: 'opacity of the image',
  scrolling: 'how the image scrolls',
  drift: 'pan and zoom',
}

/** What the action is called in the list of undo steps. */
export function labelOfImage(action: ImageAction): string {
  if (action.type === 'image/swap') return 'swap the image'
  const [first] = Object.keys(action.image) as (keyof ImageFields)[]
  return first ? LABELS[first] : 'image'
}
