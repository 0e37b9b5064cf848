import type { BackdropDocument } from '../../../core/backdrop/BackdropDocument'
import { FocalPoint } from './FocalPoint'
import { FOCAL_WORDS, useFocal } from './useFocal'

/** The point of the picture that stays in view on the stage's screen. */
export function FocalHandle({
  document,
  width,
  height,
}: {
  document: BackdropDocument
  /** Of the region on the stage, in pixels. */
  width: number
  height: number
}) {
  const { point, screenClass, isOwn, move } = useFocal(document)
  return (
    <FocalPoint
      label={`Focal point${isOwn ? ` of ${FOCAL_WORDS[screenClass!]}` : ''}`}
      point={point}
      width={width}
      height={height}
      onMove={move}
    />
  )
}
