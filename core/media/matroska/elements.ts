/**
 * The elements Telon reads or writes, by name. Source: RFC 9559 (Matroska), section 5, and RFC 8794
 * (EBML), section 11. Kinds: m master, u unsigned, s text, f float, b binary.
 */
export const ELEMENTS = {
  EBML: [0x1a45dfa3, 'm'],
  EBMLVersion: [0x4286, 'u'],
  EBMLReadVersion: [0x42f7, 'u'],
  EBMLMaxIDLength: [0x42f2, 'u'],
  EBMLMaxSizeLength: [0x42f3, 'u'],
  DocType: [0x4282, 's'],
  DocTypeVersion: [0x4287, 'u'],
  DocTypeReadVersion: [0x4285, 'u'],
  Segment: [0x18538067, 'm'],
  SeekHead: [0x114d9b74, 'm'],
  Seek: [0x4dbb, 'm'],
  SeekID: [0x53ab, 'b'],
  SeekPosition: [0x53ac, 'u'], // bytes from the start of the segment's data
  Info: [0x1549a966, 'm'],
  TimestampScale: [0x2ad7b1, 'u'], // nanoseconds a tick
  Duration: [0x4489, 'f'], // in ticks
  MuxingApp: [0x4d80, 's'],
  WritingApp: [0x5741, 's'],
  Tracks: [0x1654ae6b, 'm'],
  TrackEntry: [0xae, 'm'],
  TrackNumber: [0xd7, 'u'],
  TrackUID: [0x73c5, 'u'],
  TrackType: [0x83, 'u'], // 1 picture, 2 sound
  FlagLacing: [0x9c, 'u'],
  DefaultDuration: [0x23e383, 'u'], // nanoseconds a frame
  CodecID: [0x86, 's'],
  CodecPrivate: [0x63a2, 'b'],
  ContentEncodings: [0x6d80, 'm'],
  Video: [0xe0, 'm'],
  PixelWidth: [0xb0, 'u'],
  PixelHeight: [0xba, 'u'],
  PixelCropBottom: [0x54aa, 'u'],
  PixelCropTop: [0x54bb, 'u'],
  PixelCropLeft: [0x54cc, 'u'],
  PixelCropRight: [0x54dd, 'u'],
  DisplayWidth: [0x54b0, 'u'],
  DisplayHeight: [0x54ba, 'u'],
  DisplayUnit: [0x54b2, 'u'],
  Colour: [0x55b0, 'm'],
  MatrixCoefficients: [0x55b1, 'u'],
  BitsPerChannel: [0x55b2, 'u'],
  Range: [0x55b9, 'u'], // 1 limited, 2 full
  TransferCharacteristics: [0x55ba, 'u'],
  Primaries: [0x55bb, 'u'],
  Projection: [0x7670, 'm'],
  ProjectionPoseRoll: [0x7675, 'f'], // degrees, counter-clockwise
  Tags: [0x1254c367, 'm'],
  Tag: [0x7373, 'm'],
  SimpleTag: [0x67c8, 'm'],
  TagName: [0x45a3, 's'],
  TagString: [0x4487, 's'],
  AlphaMode: [0x53c0, 'u'], // 1: a second picture in block additions holds the alpha
  Cues: [0x1c53bb6b, 'm'],
  CuePoint: [0xbb, 'm'],
  CueTime: [0xb3, 'u'],
  CueTrackPositions: [0xb7, 'm'],
  CueTrack: [0xf7, 'u'],
  CueClusterPosition: [0xf1, 'u'],
  Cluster: [0x1f43b675, 'm'],
  Timestamp: [0xe7, 'u'],
  SimpleBlock: [0xa3, 'b'],
  BlockGroup: [0xa0, 'm'],
  Block: [0xa1, 'b'],
  BlockDuration: [0x9b, 'u'],
  BlockAdditions: [0x75a1, 'm'],
  BlockMore: [0xa6, 'm'],
  BlockAddID: [0xee, 'u'], // 1: what the codec defines, such as alpha
  BlockAdditional: [0xa5, 'b'],
  ReferenceBlock: [0xfb, 'b'],
  Void: [0xec, 'b'],
} as const satisfies Record<string, readonly [number, 'm' | 'u' | 's' | 'f' | 'b']>

export type ElementName = keyof typeof ELEMENTS

/** Names by identifier. */
export const ELEMENT_NAMES: ReadonlyMap<number, ElementName> = new Map(
  (Object.keys(ELEMENTS) as ElementName[]).map((name) => [ELEMENTS[name][0], name]),
)
