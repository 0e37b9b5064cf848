import { fileURLToPath } from 'node:url'
import { defineConfig, type Plugin } from 'vite'
import { SCRIPT_FILES, type ScriptForm } from '../core/handoff/scripts'
import { HANDOFF_VERSION } from '../core/handoff/version'

/** The forms of the delivered script, by mode: each is one file that needs no other. */
const FORMS: Readonly<Record<ScriptForm, { entry: string; format: 'iife' | 'es' }>> = {
  classic: { entry: 'backdrop.ts', format: 'iife' },
  module: { entry: 'module.ts', format: 'es' },
  element: { entry: 'element.ts', format: 'es' },
}

/** Puts a line before each file, after all that would take comments away. */
function banner(line: string): Plugin {
  return {
    name: 'banner',
    enforce: 'post',
    generateBundle(_, bundle) {
      for (const each of Object.values(bundle))
        if (each.type === 'chunk') each.code = `${line}\n${each.code}`
    },
  }
}

/** Leaves of a part its function as an expression, to be put into a form. */
function expression(): Plugin {
  return {
    name: 'expression',
    enforce: 'post',
    generateBundle(_, bundle) {
      for (const each of Object.values(bundle))
        if (each.type === 'chunk') {
          const [, code, name] = /^(.*?);?export\{(\w+) as default\};?\s*$/s.exec(each.code)!
          const alone = new RegExp(`^(?:var|let|const) ${name}=`)
          each.code = alone.test(code!)
            ? `(${code!.replace(alone, '')})`
            : `(()=>{${code!};return ${name!}})()`
        }
    },
  }
}

export default defineConfig(({ mode }) => {
  const form = mode in FORMS ? FORMS[mode as ScriptForm] : null
  const entry = form?.entry ?? `parts/${mode}.ts`
  const file = form ? SCRIPT_FILES[mode as ScriptForm] : `parts/${mode}.js`
  return {
    root: fileURLToPath(new URL('.', import.meta.url)),
    // What is delivered as it is written: the types.
    publicDir: 'delivered',
    build: {
      outDir: '../dist/runtime',
      // Several builds fill one folder.
      emptyOutDir: false,
      target: 'es2020',
      minify: true,
      lib: {
        entry,
        formats: [form?.format ?? 'es'],
        name: 'tln',
        fileName: () => file,
      },
      // Modules would else be left readable, for the bundlers of their users.
      rolldownOptions: { output: { minify: true } },
    },
    plugins: [
      form ? banner(`/*! Telon backdrop ${HANDOFF_VERSION} | MIT licence */`) : expression(),
    ],
  }
})
