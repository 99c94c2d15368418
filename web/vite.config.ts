import react from '@vitejs/plugin-react'
import { resolve } from 'node:path'
import { defineConfig } from 'vite'

// Three entries: neither the handset nor the pack station loads the studio.
export default defineConfig({
  plugins: [react()],
  build: {
    manifest: true,
    rollupOptions: {
      input: {
        studio: resolve(import.meta.dirname, 'index.html'),
        handset: resolve(import.meta.dirname, 'handset.html'),
        station: resolve(import.meta.dirname, 'station.html'),
      },
    },
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8090' } },
})
