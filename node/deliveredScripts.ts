import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import {
  SCRIPT_FILES,
  SCRIPT_PARTS,
  type DeliveredScripts,
  type ScriptForm,
  type ScriptPart,
} from '../core/handoff/scripts'

/**
 * The script in all its forms and parts, from the folder of built files. Throws where it is not
 * built.
 */
export async function readDeliveredScripts(dist: string): Promise<DeliveredScripts> {
  const read = (name: string): Promise<string> => readFile(join(dist, 'runtime', name), 'utf8')
  const all = async <T extends string>(
    names: readonly T[],
    fileOf: (name: T) => string,
  ): Promise<Record<T, string>> => {
    const files = await Promise.all(names.map(async (name) => [name, await read(fileOf(name))]))
    return Object.fromEntries(files) as Record<T, string>
  }
  return {
    forms: await all(Object.keys(SCRIPT_FILES) as ScriptForm[], (form) => SCRIPT_FILES[form]),
    parts: await all<ScriptPart>(SCRIPT_PARTS, (part) => `parts/${part}.js`),
    types: await read('backdrop.d.ts'),
  }
}
