import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'

const isolation = { 'Cross-Origin-Opener-Policy': 'same-origin', 'Cross-Origin-Embedder-Policy': 'require-corp' }

export default defineConfig({
  plugins: [react()],
  optimizeDeps: { exclude: ['@nimble-quill/core', '@nimble-quill/contracts'] },
  worker: { format: 'es' },
  build: { target: 'es2022', assetsInlineLimit: 0, chunkSizeWarningLimit: 700 },
  server: { headers: isolation, proxy: { '/api': 'http://127.0.0.1:4170' } },
})
