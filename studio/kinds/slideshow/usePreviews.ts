import { useEffect, useState } from 'react'
import { mediaUrl } from '../../api/client'
import type { SlideImage } from '../../worker/compose/drawSlides'
import type { ImageSource } from '../image/imageOf'
import { addressOf } from './slidesOf'

/** Small pictures of images, by the id of their source, as they come. */
export function usePreviews(
  sources: readonly (ImageSource | null)[],
): ReadonlyMap<string, SlideImage> {
  const [loaded, setLoaded] = useState<ReadonlyMap<string, SlideImage>>(new Map())
  const wanted = [...new Set(sources.flatMap((source) => source ?? []))]
  const key = wanted.map(({ id, strip }) => `${id} ${strip?.sha256}`).join()
  useEffect(() => {
    let isOver = false
    for (const source of wanted) {
      const image = new Image()
      image.src = source.strip ? mediaUrl(source.strip.sha256, 'image/webp') : addressOf(source)
      image.decode().then(
        () =>
          isOver ||
          setLoaded((before) =>
            new Map(before).set(source.id, {
              image,
              width: image.naturalWidth,
              height: image.naturalHeight,
            }),
          ),
        // Without a picture its place stays empty.
        () => undefined,
      )
    }
    return () => {
      isOver = true
    }
    // The list is another one at each drawing; what it names is the key.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key])
  return loaded
}
