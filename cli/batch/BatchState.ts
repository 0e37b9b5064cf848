import { createHash } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { readFile, rename, writeFile } from 'node:fs/promises'
import { z } from 'zod'
import { DOCUMENT_VERSION, type BackdropDocument } from '../../core/backdrop/BackdropDocument'
import type { Delivery } from './BatchList'

const stateSchema = z.object({
  telonBatchState: z.literal(1),
  deliveries: z.record(
    z.string(),
    z.object({
      /** Of what was asked for: its files and options. */
      digest: z.string(),
      /** What was decided when it was queued, encoders and measured loops among it. */
      document: z.custom<BackdropDocument>((value) => typeof value === 'object' && value !== null),
      isDelivered: z.boolean(),
    }),
  ),
})

/** What is known of a delivery that was queued before. */
export type QueuedDelivery = z.infer<typeof stateSchema>['deliveries'][string]

/**
 * What became of deliveries, in a file: a batch that is called again goes on where it was ended,
 * with the same decisions, so that nothing is rendered twice.
 */
export class BatchState {
  private constructor(
    private readonly path: string,
    private readonly deliveries: Record<string, QueuedDelivery>,
  ) {}

  /** Reads the file; where there is none, or one of another version, nothing is known. */
  static async open(path: string): Promise<BatchState> {
    const text = await readFile(path, 'utf8').catch(() => null)
    try {
      return new BatchState(path, stateSchema.parse(JSON.parse(text ?? '')).deliveries)
    } catch {
      return new BatchState(path, {})
    }
  }

  /** What was decided of the same delivery; null where it is new, or its files have changed. */
  known(name: string, digest: string): QueuedDelivery | null {
    const found = Object.hasOwn(this.deliveries, name) ? this.deliveries[name]! : null
    // One of another version of Telon is decided anew.
    return found?.digest === digest && found.document.version === DOCUMENT_VERSION ? found : null
  }

  /** Keeps it: the file is whole at any moment. */
  async keep(name: string, queued: QueuedDelivery): Promise<void> {
    this.deliveries[name] = queued
    const text = JSON.stringify({ telonBatchState: 1, deliveries: this.deliveries })
    await writeFile(`${this.path}.part`, text)
    await rename(`${this.path}.part`, this.path)
  }
}

/** Recognizes a delivery: the content of its files in their order, and its options. */
export async function digestOf({ files, options }: Delivery): Promise<string> {
  const hash = createHash('sha256')
  for (const file of files) {
    const content = createHash('sha256')
    for await (const part of createReadStream(file)) content.update(part as Buffer)
    hash.update(content.digest())
  }
  return hash.update(JSON.stringify({ ...options, out: '' })).digest('hex')
}
