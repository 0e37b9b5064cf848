import {
  keepPreviousData,
  QueryClient,
  useInfiniteQuery,
  useQueries,
  useQuery,
  type UseQueryResult,
} from '@tanstack/react-query'
import { useMemo } from 'react'
import { settingsSchema, type ProjectSettings, type SettingsChange } from '../../core/api/settings'
import type { ShelfQuery, Source, SourceCard } from '../../core/api/wire'
import type { SourceRef } from '../../core/kinds/Kind'
import { api, RequestError } from './client'

/*
 * What the server holds, as the views see it: fetched once, shared, fetched again when something
 * changed it.
 */

const MAX_RETRIES = 2

/**
 * The query cache of the application. Failures that pass by themselves are tried again; refusals
 * are shown at once.
 */
export const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      retry: (count, error) =>
        error instanceof RequestError &&
        error.isPassing &&
        error.status !== 401 &&
        count < MAX_RETRIES,
      // On loopback the browser's own idea of being online says nothing about the server.
      networkMode: 'always',
    },
    mutations: { networkMode: 'always' },
  },
})

/**
 * Keys by what they are of; everything of a project begins with its id, so that one call makes all
 * of it stale.
 */
export const keys = {
  projects: ['projects'] as const,
  project: (id: string) => ['project', id] as const,
  shelf: (id: string) => ['project', id, 'shelf'] as const,
  source: (id: string) => ['source', id] as const,
  revisions: (backdropId: string) => ['revisions', backdropId] as const,
  backdrop: (id: string) => ['backdrop', id] as const,
  config: ['config'] as const,
  session: ['session'] as const,
  tokens: ['tokens'] as const,
  space: ['space'] as const,
  renderWorkers: ['render-workers'] as const,
  work: ['work'] as const,
}

export const useProjects = () => useQuery({ queryKey: keys.projects, queryFn: api.listProjects })

export const useProject = (id: string) =>
  useQuery({ queryKey: keys.project(id), queryFn: () => api.readProject(id) })

/** Limits of the server; they do not change while it runs. */
export const useConfig = () =>
  useQuery({ queryKey: keys.config, queryFn: api.config, staleTime: Infinity })

/** Render workers come and go without anyone's doing. */
const WORKERS_EVERY_MS = 10_000

/** The render workers that are there. */
export const useRenderWorkers = () =>
  useQuery({
    queryKey: keys.renderWorkers,
    queryFn: api.listRenderWorkers,
    refetchInterval: WORKERS_EVERY_MS,
  })

export const useSets = (projectId: string) =>
  useQuery({ queryKey: [...keys.shelf(projectId), 'sets'], queryFn: () => api.listSets(projectId) })

export const useUnfinishedUploads = (projectId: string) =>
  useQuery({
    queryKey: [...keys.shelf(projectId), 'uploads'],
    queryFn: () => api.listUploads(projectId),
  })

/** Every clip of a project, as cards. */
export const useClips = (projectId: string) =>
  useQuery({
    queryKey: [...keys.shelf(projectId), 'clips'],
    queryFn: () => api.listClips(projectId),
    enabled: projectId !== '',
  })

/** Every image of a project, as cards: as many as one answer holds. */
export const useImages = (projectId: string) =>
  useQuery({
    queryKey: [...keys.shelf(projectId), 'images'],
    queryFn: async () =>
      (await api.listSources(projectId, { kind: 'image', limit: WHOLE_SET })).sources,
    enabled: projectId !== '',
  })

/** How many sources lie on a project's shelf. */
export const useShelfTotal = (projectId: string) =>
  useQuery({
    queryKey: [...keys.shelf(projectId), 'total'],
    queryFn: async () => (await api.listSources(projectId, { limit: 1 })).total,
  })

const PAGE = 60
/** A set is put in order as a whole. */
const WHOLE_SET = 200

/**
 * A shelf, page by page, filtered and sorted. The previous result stays until the next answer
 * arrives.
 */
export function useShelf(projectId: string, query: ShelfQuery) {
  const limit = query.set ? WHOLE_SET : PAGE
  const shelf = useInfiniteQuery({
    queryKey: [...keys.shelf(projectId), 'sources', query],
    queryFn: ({ pageParam }) => api.listSources(projectId, { ...query, offset: pageParam, limit }),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => {
      const loaded = pages.reduce((sum, page) => sum + page.sources.length, 0)
      return last.sources.length > 0 && loaded < last.total ? loaded : null
    },
    placeholderData: keepPreviousData,
  })
  const { data } = shelf
  const sources = useMemo(() => data?.pages.flatMap((page) => page.sources) ?? [], [data])
  return {
    sources,
    total: data?.pages.at(-1)?.total ?? 0,
    isLoading: shelf.isPending,
    error: shelf.error,
    reload: () => shelf.refetch(),
    more: () => {
      if (shelf.hasNextPage && !shelf.isFetchingNextPage) void shelf.fetchNextPage()
    },
  }
}

export const useSource = (id: string) =>
  useQuery({ queryKey: keys.source(id), queryFn: () => api.readSource(id) })

/** A source as it can be shown before its measurements have come. */
const fromCard = (card: SourceCard): Source => ({ ...card, analysis: null })

/**
 * The sources that a base is made from, in its order. A clip that was just chosen comes from its
 * card at once, with its measurements a moment later. `all` is null until every source is known;
 * `gone` says that one is no longer on the shelf.
 */
export function useSources(
  refs: readonly SourceRef[],
  projectId: string,
): { all: readonly Source[] | null; gone: boolean; retry: () => void } {
  const { data: clips = [] } = useClips(projectId)
  const { data: images = [] } = useImages(projectId)
  const { found, gone } = useQueries({
    queries: refs.map(({ sourceId }) => {
      const card = [...clips, ...images].find((each) => each.id === sourceId)
      return {
        queryKey: keys.source(sourceId),
        queryFn: () => api.readSource(sourceId),
        ...(card && { placeholderData: fromCard(card) }),
      }
    }),
    combine: summary,
  })
  return {
    all: !gone && found.every((source) => source !== null) ? (found as Source[]) : null,
    gone,
    retry: () =>
      refs.forEach(
        ({ sourceId }) => void queries.refetchQueries({ queryKey: keys.source(sourceId) }),
      ),
  }
}

/** Outside of the component: what it gives stays the same object while nothing changes. */
const summary = (results: readonly UseQueryResult<Source>[]) => ({
  found: results.map(({ data }) => data ?? null),
  gone: results.some(({ isError }) => isError),
})

/** An earlier state of the shelf is shown nowhere any more: sources came, went or changed. */
export async function shelfChanged(projectId: string): Promise<void> {
  await Promise.all([
    queries.invalidateQueries({ queryKey: keys.shelf(projectId) }),
    queries.invalidateQueries({ queryKey: ['source'] }),
    queries.invalidateQueries({ queryKey: keys.projects }),
  ])
}

/** A project's pages, spots, backdrops or name changed. */
export async function projectChanged(projectId: string): Promise<void> {
  await Promise.all([
    queries.invalidateQueries({ queryKey: keys.project(projectId) }),
    queries.invalidateQueries({ queryKey: keys.projects }),
  ])
}

const settingsKey = (projectId: string) => [...keys.project(projectId), 'settings'] as const
const OWN_SETTINGS: ProjectSettings = settingsSchema.parse({})

/** A project's settings, on their way or there: what changes them must not begin with others. */
export const useSettingsQuery = (projectId: string) =>
  useQuery({
    queryKey: settingsKey(projectId),
    queryFn: () => api.readSettings(projectId),
    staleTime: 60_000,
  })

/** A project's settings; Telon's own until they have come. */
export const useSettings = (projectId: string): ProjectSettings =>
  useSettingsQuery(projectId).data ?? OWN_SETTINGS

/** Changes some of a project's settings, on the server too. Throws `RequestError`. */
export async function changeSettings(projectId: string, change: SettingsChange): Promise<void> {
  queries.setQueryData(settingsKey(projectId), await api.changeSettings(projectId, change))
}

export const useRevisions = (backdropId: string, open: boolean) =>
  useQuery({
    queryKey: keys.revisions(backdropId),
    queryFn: () => api.listRevisions(backdropId),
    enabled: open,
    staleTime: 0,
  })
