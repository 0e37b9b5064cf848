import { drifts, viewAt, type ImageBase } from '../../../core/kinds/image/Image'
import { mimeOf } from '../../../core/media/image/mimeOf'
import { mediaUrl } from '../../api/client'
import { drawCover } from '../drawCover'
import type { KindView, ShownBase, ShownPicture } from '../KindView'
import { documentOf, ofKind, readingOf } from '../ofKind'
import { ImageDeck } from './ImageDeck'
import { ImageMaterialBench } from './ImageMaterialBench'
import { imageOf } from './imageOf'
import { LostImage } from './LostImage'
import { PanBench } from './PanBench'
import { PanDeck } from './PanDeck'
import { PanHandles } from './PanHandles'
import { readImage } from './readImage'
import { readPan } from './readPan'

/** An image: which one and how it lies, and its slow pan and zoom. */
export const imageView: KindView = {
  rooms: {
    material: {
      label: 'Material',
      read: readingOf('image', readImage),
      Bench: ofKind('image', ImageMaterialBench),
      Deck: ofKind('image', ImageDeck),
      deckHeight: 'h-52',
    },
    timing: {
      label: 'Timing',
      read: readingOf('image', readPan),
      Bench: ofKind('image', PanBench),
      Deck: ofKind('image', PanDeck),
      deckHeight: 'h-52',
    },
  },
  firstRoom: 'material',
  handles: { timing: ofKind('image', PanHandles) },
  standInMedia(document, sources) {
    const source = imageOf(documentOf(document, 'image'), sources)
    if (!source) return null
    const { displayWidth: width, displayHeight: height, bytes, format } = source.facts
    return {
      clips: [],
      placeholder: null,
      posters: [
        {
          screenClass: 'wide',
          density: 1,
          // The original, whatever it is: as the last choice it stands without a type.
          format: 'jpeg',
          url: mediaUrl(source.sha256, mimeOf(format)),
          width,
          height,
          bytes,
        },
      ],
    }
  },
  standIn: () => Promise.resolve(null),
  draw(context, shown) {
    const { base } = documentOf(shown.document, 'image')
    if (!shown.picture && base.placing !== 'tile') return false
    drawImage(context, base, shown)
    return true
  },
  Lost: LostImage,
  momentOf: () => null,
}

/** Draws an image as the delivered style does. */
function drawImage(
  context: OffscreenCanvasRenderingContext2D,
  base: ImageBase,
  { picture, focal, progress, width, height }: ShownBase,
): void {
  context.fillStyle = base.background
  context.fillRect(0, 0, width, height)
  if (!picture) return
  context.globalAlpha = base.opacity
  if (base.placing === 'contain') {
    const scale = Math.min(width / picture.width, height / picture.height)
    const [wide, high] = [picture.width * scale, picture.height * scale]
    const { x, y } = focal
    context.drawImage(picture.image, (width - wide) * x, (height - high) * y, wide, high)
  } else if (base.placing === 'tile') drawTiles(context, picture, base.tileWidth / 2, width, height)
  else {
    if (drifts(base)) {
      const view = viewAt(base.drift!, progress)
      context.scale(view.zoom, view.zoom)
      context.translate(-view.x * width, -view.y * height)
    }
    drawCover(context, picture, { width, height }, focal)
    context.resetTransform()
  }
  context.globalAlpha = 1
}

/** Tiles from the corner; contrast is measured at half the size of the region. */
function drawTiles(
  context: OffscreenCanvasRenderingContext2D,
  picture: ShownPicture,
  tileWidth: number,
  width: number,
  height: number,
): void {
  const tileHeight = (tileWidth * picture.height) / picture.width
  for (let y = 0; y < height; y += tileHeight)
    for (let x = 0; x < width; x += tileWidth)
      context.drawImage(picture.image, x, y, tileWidth, tileHeight)
}
