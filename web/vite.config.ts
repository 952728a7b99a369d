import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { outDir: 'dist', emptyOutDir: false, assetsInlineLimit: 0 },
  server: { proxy: { '/api': 'http://127.0.0.1:7117' } },
  // The files share one world each worker: what is in a module is set up by each test that needs it.
  test: { environment: 'node', globals: false, pool: 'threads', isolate: false },
})
