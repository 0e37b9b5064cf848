import type { EncodePicture, PictureToEncode } from '../headless/RenderBrowser'

/** An encoder of pictures on this machine. */
export interface PictureEncoder {
  /** Program and version, as recipes name it. */
  readonly name: string
  readonly encode: EncodePicture
}

/** The useful range of each format's quality, coarsest to finest. */
const QUALITY = { avif: [10, 92], webp: [20, 98], jpeg: [20, 98] } as const
/**
 * How hard it tries, 0 to 9 for AVIF and 0 to 6 for WebP. AVIF: 4 takes 2 to 3 s for 1080p and 5 to
 * 8 % more bytes than 6, which takes 7 s; 9 saves 3 % more and takes 14 s. A search makes five.
 */
const EFFORT = { avif: 5, webp: 6 } as const

/**
 * The encoder of pictures, or null where it is not installed, or `TELON_ENCODERS` does not list
 * `sharp`. It gets raw pixels only.
 */
export async function pictureEncoder(
  environment: Readonly<Record<string, string | undefined>> = process.env,
): Promise<PictureEncoder | null> {
  const allowed = environment['TELON_ENCODERS']?.split(',').map((name) => name.trim())
  if (allowed && !allowed.includes('sharp')) return null
  // Its binaries do not exist for every machine.
  const sharp = await import('sharp').then(
    (module) => module.default,
    () => null,
  )
  if (!sharp) return null
  return {
    name: `sharp ${sharp.versions.sharp ?? '0'}`,
    async encode({ format, width, height, quality, pixels }: PictureToEncode) {
      const [coarsest, finest] = QUALITY[format]
      const value = Math.round(coarsest + (finest - coarsest) * quality)
      const picture = sharp(pixels, { raw: { width, height, channels: 4 } }).removeAlpha()
      switch (format) {
        case 'avif':
          return picture
            .avif({ quality: value, effort: EFFORT.avif, chromaSubsampling: '4:2:0' })
            .toBuffer()
        case 'webp':
          return picture.webp({ quality: value, effort: EFFORT.webp }).toBuffer()
        case 'jpeg':
          return picture.jpeg({ quality: value, mozjpeg: true }).toBuffer()
      }
    },
  }
}
