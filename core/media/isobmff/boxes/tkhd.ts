import {
  byVersion,
  fixed,
  i16,
  i32,
  reserved,
  struct,
  u24,
  u32,
  u64,
  u8,
} from '../../../bytes/fields'

/** Track header. Source: ISO/IEC 14496-12:2022, clause 8.3.2; the matrix is clause 6.2.2. */
export const tkhd = struct({
  version: u8,
  flags: u24, // 1 enabled, 2 in movie, 4 in preview
  creationTime: byVersion(u32, u64),
  modificationTime: byVersion(u32, u64),
  trackId: u32, // never 0
  reserved1: reserved(4),
  duration: byVersion(u32, u64), // in ticks of the movie's timescale
  reserved2: reserved(8),
  layer: i16,
  alternateGroup: i16,
  volume: fixed('i16', 8),
  reserved3: reserved(2),
  a: i32, // matrix, 16.16: x' = a·x + c·y + tx
  b: i32,
  u: i32,
  c: i32,
  d: i32,
  v: i32,
  x: i32,
  y: i32,
  w: i32,
  width: fixed('u32', 16), // shown width, before the matrix, in pixels
  height: fixed('u32', 16),
})
