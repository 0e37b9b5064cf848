import {
  clipSourceSchema,
  factsSchema,
  type Repaired,
  type RepairRequest,
  type Source,
} from '../../core/api/wire'
import { cutText, MAX_NAME_CHARS } from '../../core/bounded'
import { ContainerError } from '../../core/bytes/ContainerError'
import { analysisSchema } from '../../core/material/Analysis'
import { describeContainerError } from '../../core/media/describeContainerError'
import type { MediaFacts, SourceFacts } from '../../core/media/probe'
import { bytesOfPlan, type RepairOrder } from '../../core/media/repair/RepairPlan'
import { ApiError } from '../ApiError'
import type { BlobStore, StoredBlob } from '../blobs/BlobStore'
import type { FileProber } from '../probing/FileProber'
import type { Database } from './database'
import type { Renditions } from './Renditions'
import type { Shelf } from './Shelf'

/** Repairs of clips without encoding: sound off, index first, cuts at key frames, metadata off. */
export class Repairs {
  private readonly database: Database
  private readonly shelf: Shelf
  private readonly blobs: BlobStore
  private readonly renditions: Renditions
  private readonly prober: FileProber

  constructor(parts: {
    database: Database
    shelf: Shelf
    blobs: BlobStore
    renditions: Renditions
    prober: FileProber
  }) {
    this.database = parts.database
    this.shelf = parts.shelf
    this.blobs = parts.blobs
    this.renditions = parts.renditions
    this.prober = parts.prober
  }

  /**
   * Repairs a clip. A cut adds a source; all other repairs change this source, and its former
   * content can be restored. Errors: `source/repair` with the reason.
   */
  async repair(id: string, request: RepairRequest): Promise<Repaired> {
    const row = await this.shelf.rowOf(id)
    const facts = clipSourceSchema.safeParse(row.facts)
    const held = await this.blobs.findBySha256(row.sha256)
    if (!facts.success || !held)
      throw new ApiError('source/repair', undefined, 'Only clips can be repaired.')
    const { blob, startMs } = await this.copy(held, orderOf(request, facts.data.container))
    const before = { bytesBefore: held.size, bytesAfter: blob.size, startMs, before: row.sha256 }
    if (request.operation === 'cut') {
      const read = await this.probe(blob)
      const { source: added } = await this.shelf.add(
        row.projectId,
        cutName(row.name, request),
        blob.sha256,
        read,
      )
      return { source: added, added: true, ...before }
    }
    return { source: await this.putContent(id, blob.sha256), added: false, ...before }
  }

  /**
   * Gives a source other content that is stored already: after a repair, or to undo one.
   * Measurements are kept if the frames are the same. Errors: `source/not-found`, `source/no-undo`,
   * `source/repair`.
   */
  async putContent(id: string, sha256: string): Promise<Source> {
    const row = await this.shelf.rowOf(id)
    const blob = await this.blobs.findBySha256(sha256)
    if (!blob) throw new ApiError('source/no-undo')
    const facts = await this.probe(blob)
    const before = factsSchema.parse(row.facts)
    if (before.kind !== facts.kind) throw new ApiError('source/other-kind')
    const analysis =
      sameFrames(before, facts) && row.analysis ? analysisSchema.parse(row.analysis) : null
    await this.database.transaction(async (transaction) => {
      if (sameTimes(before, facts)) await this.renditions.carryOver(row.sha256, sha256, transaction)
      await this.shelf.replaceContent(id, { sha256, facts, analysis }, transaction)
    })
    return this.shelf.read(id)
  }

  private async copy(
    held: StoredBlob,
    order: RepairOrder,
  ): Promise<{ blob: StoredBlob; startMs: number }> {
    const source = this.blobs.source(held)
    const plan = await this.prober.planRepair(source, order)
    if (!plan.ok)
      throw new ApiError(
        'source/repair',
        { code: plan.error.code },
        describeContainerError(plan.error),
      )
    try {
      const blob = await this.blobs.store(plan.value.bytes, bytesOfPlan(plan.value, source))
      return { blob, startMs: plan.value.startMs }
    } catch (error) {
      if (!(error instanceof ContainerError)) throw error
      throw new ApiError('source/repair', { code: error.code }, describeContainerError(error))
    }
  }

  private async probe(blob: StoredBlob): Promise<SourceFacts> {
    const read = await this.prober.probe(this.blobs.source(blob))
    if (!read.ok)
      throw new ApiError(
        'source/repair',
        { code: read.error.code },
        describeContainerError(read.error),
      )
    return read.value
  }
}

function sameFrames(before: SourceFacts, after: SourceFacts): boolean {
  return (
    before.kind === 'clip' &&
    after.kind === 'clip' &&
    before.video.frameCount === after.video.frameCount
  )
}

/** Whether what was rendered from the one content holds for the other, too. */
function sameTimes(before: SourceFacts, after: SourceFacts): boolean {
  if (before.kind !== 'clip' || after.kind !== 'clip' || !sameFrames(before, after)) return false
  const { durationTicks, timescale } = before.video
  return durationTicks === after.video.durationTicks && timescale === after.video.timescale
}

function orderOf(request: RepairRequest, container: MediaFacts['container']): RepairOrder {
  const known =
    container === 'mp4' || container === 'mov' || container === 'webm' || container === 'mkv'
  const cut = request.operation === 'cut'
  return {
    container:
      request.operation === 'container' ? (request.container ?? 'mp4') : known ? container : 'mp4',
    keepSound: request.operation !== 'no-sound' && request.operation !== 'container',
    startMs: cut ? (request.startMs ?? null) : null,
    endMs: cut ? (request.endMs ?? null) : null,
    strip: request.operation === 'strip',
  }
}

function cutName(name: string, { startMs = 0, endMs }: RepairRequest): string {
  const dot = name.lastIndexOf('.')
  const [stem, suffix] = dot > 0 ? [name.slice(0, dot), name.slice(dot)] : [name, '']
  const end = endMs === undefined ? 'end' : (endMs / 1000).toFixed(1)
  const rest = ` ${(startMs / 1000).toFixed(1)}–${end}${suffix}`
  // The moments and the kind of file stay, however long the name.
  const kept = cutText(stem, Math.max(1, MAX_NAME_CHARS - rest.length))
  return cutText(`${kept}${rest}`, MAX_NAME_CHARS)
}
