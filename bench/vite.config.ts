import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vite'

const here = (path: string): string => fileURLToPath(new URL(path, import.meta.url))

export default defineConfig({
  root: here('.'),
  build: {
    outDir: here('../dist/bench'),
    emptyOutDir: true,
    target: 'es2023',
    rollupOptions: { input: here('page.html') },
  },
})
