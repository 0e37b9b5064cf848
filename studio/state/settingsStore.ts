import { useEffect } from 'react'
import { create } from 'zustand'
import { settingsSchema, type ProjectSettings } from '../../core/api/settings'
import { api } from '../api/client'

interface SettingsState {
  readonly byProject: Readonly<Record<string, ProjectSettings>>
  load(projectId: string): Promise<void>
  /** Keeps new settings, on the server too. Throws `RequestError`. */
  write(projectId: string, settings: ProjectSettings): Promise<void>
}

/** What projects decide for all their backdrops. */
export const useSettingsStore = create<SettingsState>((set, get) => ({
  byProject: {},
  async load(projectId) {
    if (get().byProject[projectId]) return
    const settings = await api.readSettings(projectId).catch(() => null)
    if (settings) set((state) => ({ byProject: { ...state.byProject, [projectId]: settings } }))
  },
  async write(projectId, settings) {
    await api.writeSettings(projectId, settings)
    set((state) => ({ byProject: { ...state.byProject, [projectId]: settings } }))
  },
}))

const OWN = settingsSchema.parse({})

/** A project's settings; Telon's own until they have come. */
export function useSettings(projectId: string): ProjectSettings {
  const settings = useSettingsStore((state) => state.byProject[projectId])
  const load = useSettingsStore((state) => state.load)
  useEffect(() => void load(projectId), [projectId, load])
  return settings ?? OWN
}
