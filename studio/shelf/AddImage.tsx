import { useEffect, useRef, useState } from 'react'
import { messageOf } from '../api/client'
import { Note } from '../ui/controls'
import { Picker } from '../ui/Picker'
import { loadImage, type LoadedImage } from './loadImage'
import { useShelfImages } from './useShelfImages'

interface AddImageProps<T> {
  readonly projectId: string
  readonly label: string
  /** What is said where the shelf has no image. */
  readonly emptyText: string
  /** Makes of an image what is needed. Errors with what to do are shown. */
  readonly make: (loaded: LoadedImage) => T | Promise<T>
  readonly onAdd: (made: T) => void
}

/** Makes something of an image of the shelf that is chosen: a copy, small enough to be kept. */
export function AddImage<T>({ projectId, label, emptyText, make, onAdd }: AddImageProps<T>) {
  const images = useShelfImages(projectId)
  const [making, setMaking] = useState(false)
  // It is added to what there is then, not now; and to no other backdrop.
  const latest = useRef<typeof onAdd | null>(null)
  useEffect(() => {
    latest.current = onAdd
    return () => {
      latest.current = null
    }
  }, [onAdd])
  const [problem, setProblem] = useState<string | null>(null)
  const add = async (id: string): Promise<void> => {
    const chosen = images.find((each) => each.id === id)
    if (chosen?.facts.kind !== 'image' || making) return
    setMaking(true)
    setProblem(null)
    try {
      const made = await make(await loadImage(chosen.sha256, chosen.facts))
      latest.current?.(made)
    } catch (error) {
      setProblem(messageOf(error))
    } finally {
      setMaking(false)
    }
  }
  if (images.length === 0) return <p className="text-xs text-muted">{emptyText}</p>
  return (
    <>
      <Picker
        label={label}
        value=""
        onChange={(id) => void add(id)}
        options={[
          { value: '', label: making ? 'Making it small …' : label },
          ...images.map(({ id, name }) => ({ value: id, label: name })),
        ]}
      />
      {problem && <Note tone="fix">{problem}</Note>}
    </>
  )
}
