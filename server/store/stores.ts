import type { Logger } from 'pino'
import { BlobReader } from '../blobs/BlobReader'
import { BlobStore } from '../blobs/BlobStore'
import { FileProber } from '../probing/FileProber'
import { SpaceKeeper } from '../space/SpaceKeeper'
import { UploadFinisher } from '../uploads/UploadFinisher'
import { UploadStore } from '../uploads/UploadStore'
import { Backdrops } from './Backdrops'
import type { Database } from './database'
import { Projects } from './Projects'
import { Renditions } from './Renditions'
import { Repairs } from './Repairs'
import { Shelf } from './Shelf'
import { TriedParticles } from './TriedParticles'

/** Everything that is kept, on one database. */
export interface Stores {
  readonly blobs: BlobStore
  readonly reader: BlobReader
  readonly projects: Projects
  readonly shelf: Shelf
  readonly repairs: Repairs
  readonly backdrops: Backdrops
  readonly renditions: Renditions
  readonly triedParticles: TriedParticles
  readonly uploads: UploadStore
  readonly finisher: UploadFinisher
  readonly prober: FileProber
  readonly space: SpaceKeeper
}

/** The stores of a database. `prober.close()` ends the threads that read foreign files. */
export function createStores(database: Database, log: Logger): Stores {
  const prober = new FileProber()
  const blobs = new BlobStore(database)
  const shelf = new Shelf(database)
  const renditions = new Renditions(database, blobs, prober)
  const uploads = new UploadStore(database, blobs, shelf)
  return {
    blobs,
    reader: new BlobReader(blobs),
    projects: new Projects(database),
    shelf,
    repairs: new Repairs({ database, shelf, blobs, renditions, prober }),
    backdrops: new Backdrops(database, shelf),
    renditions,
    triedParticles: new TriedParticles(database),
    uploads,
    finisher: new UploadFinisher(uploads, blobs, prober),
    prober,
    space: new SpaceKeeper(database, log),
  }
}
