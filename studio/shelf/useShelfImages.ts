import { useEffect, useState } from 'react'
import type { SourceCard } from '../../core/api/wire'
import { api } from '../api/client'

/** The images of a project's shelf, drawings among them. */
export function useShelfImages(projectId: string): readonly SourceCard[] {
  const [images, setImages] = useState<readonly SourceCard[]>([])
  useEffect(() => {
    let wanted = true
    api.listSources(projectId, { kind: 'image', sort: 'name', limit: 100 }).then(
      (page) => wanted && setImages(page.sources.filter(({ facts }) => facts.kind === 'image')),
      // Without the list everything stays as it is.
      () => undefined,
    )
    return () => {
      wanted = false
    }
  }, [projectId])
  return images
}
