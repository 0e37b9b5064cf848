import { av1C } from './av1C'
import { avcC } from './avcC'
import { co64 } from './co64'
import { colr } from './colr'
import { ctts } from './ctts'
import { elst } from './elst'
import { ftyp } from './ftyp'
import { hdlr } from './hdlr'
import { iloc } from './iloc'
import { infe } from './infe'
import { ipma } from './ipma'
import { ispe } from './ispe'
import { mdhd } from './mdhd'
import { mvhd } from './mvhd'
import { pasp } from './pasp'
import { pitm } from './pitm'
import { pixi } from './pixi'
import { smhd } from './smhd'
import { stco } from './stco'
import { stsc } from './stsc'
import { stsd } from './stsd'
import { stss } from './stss'
import { stsz } from './stsz'
import { stts } from './stts'
import { tfdt } from './tfdt'
import { tfhd } from './tfhd'
import { tkhd } from './tkhd'
import { trex } from './trex'
import { trun } from './trun'
import { vmhd } from './vmhd'
import { vpcC } from './vpcC'

/** Every box whose fields Telon knows, by its four-character code as on disk. */
export const BOXES = {
  av1C,
  avcC,
  co64,
  colr,
  ctts,
  elst,
  ftyp,
  hdlr,
  iloc,
  infe,
  ipma,
  ispe,
  mdhd,
  mvhd,
  pasp,
  pitm,
  pixi,
  smhd,
  stco,
  stsc,
  stsd,
  stss,
  stsz,
  stts,
  tfdt,
  tfhd,
  tkhd,
  trex,
  trun,
  vmhd,
  vpcC,
} as const
