import { fileURLToPath } from 'node:url'
import tailwind from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'

const here = (path: string): string => fileURLToPath(new URL(path, import.meta.url))

export default defineConfig({
  root: here('.'),
  plugins: [react(), tailwind()],
  worker: { format: 'es' },
  // The server of the same build answers with the same text: another one asks for a reload.
  define: { __TELON_BUILD__: JSON.stringify(process.env['TELON_BUILD'] ?? 'dev') },
  server: {
    port: 4601,
    proxy: {
      '/api': 'http://127.0.0.1:4600',
      '/media': 'http://127.0.0.1:4600',
      '/handoff': 'http://127.0.0.1:4600',
      '/runtime': 'http://127.0.0.1:4600',
    },
  },
  build: {
    outDir: here('../dist/studio'),
    emptyOutDir: true,
    target: 'es2023',
    chunkSizeWarningLimit: 1200,
    rollupOptions: { input: [here('index.html'), here('harness.html'), here('stage.html')] },
  },
})
