import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vite'

const here = (path: string): string => fileURLToPath(new URL(path, import.meta.url))

/**
 * What runs in Node: the server, its probing thread, the render worker and the command line, as
 * plain JavaScript beside their packages.
 */
export default defineConfig({
  root: here('..'),
  publicDir: false,
  build: {
    ssr: true,
    outDir: here('../dist/server'),
    emptyOutDir: true,
    target: 'node20',
    minify: false,
    rollupOptions: {
      input: {
        serve: here('../cli/serve.ts'),
        telon: here('../cli/main.ts'),
        renderWorker: here('../render-worker/main.ts'),
        probeThread: here('../server/probing/probeThread.ts'),
      },
      // All in one folder: files find each other beside themselves.
      output: { entryFileNames: '[name].js', chunkFileNames: '[name]-[hash].js' },
    },
  },
})
