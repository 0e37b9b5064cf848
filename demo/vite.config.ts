import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vite'

const here = (path: string): string => fileURLToPath(new URL(path, import.meta.url))

export default defineConfig({
  root: here('.'),
  build: {
    outDir: here('../dist/demo'),
    emptyOutDir: true,
    target: 'es2023',
    rollupOptions: { input: here('generator.html') },
  },
})
