/**
 * A PostgreSQL cluster of the project's own: where its data lie, and how it is reached on loopback.
 */
export interface Cluster {
  readonly data: string
  readonly password: string
  readonly port: number
}

export function postgresBin(): string
export function createCluster(name: string): Promise<Cluster>
export function isRunning(cluster: Cluster): boolean
export function startCluster(cluster: Cluster): void
export function killCluster(cluster: Cluster): Promise<void>
export function removeCluster(cluster: Cluster): Promise<void>
export function urlOf(cluster: Cluster): string
export function processesOf(cluster: Cluster): number[]
