import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vite'

export default defineConfig({
  root: fileURLToPath(new URL('.', import.meta.url)),
  build: {
    outDir: '../dist/runtime',
    emptyOutDir: true,
    target: 'es2020',
    lib: { entry: 'backdrop.ts', formats: ['iife'], name: 'tln', fileName: () => 'backdrop.js' },
  },
})
