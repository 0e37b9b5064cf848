/**
 * Picture codecs that Telon can name but browsers do not decode, by their code in MP4/MOV or
 * Matroska.
 */
export const OTHER_CODECS: Readonly<Record<string, string>> = {
  apch: 'ProRes 422 HQ',
  apcn: 'ProRes 422',
  apcs: 'ProRes 422 LT',
  apco: 'ProRes 422 Proxy',
  ap4h: 'ProRes 4444',
  ap4x: 'ProRes 4444 XQ',
  AVdn: 'DNxHD',
  mjpa: 'Motion JPEG',
  'rle ': 'QuickTime Animation',
  'raw ': 'uncompressed video',
  v210: 'uncompressed 10-bit video',
  s263: 'H.263',
  h263: 'H.263',
  dvh1: 'Dolby Vision HEVC',
  dvhe: 'Dolby Vision HEVC',
  vvc1: 'VVC',
  'V_MPEG4/ISO/ASP': 'MPEG-4 Part 2',
  V_MPEG2: 'MPEG-2',
  V_THEORA: 'Theora',
  V_PRORES: 'ProRes',
}
