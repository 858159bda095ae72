import { fileURLToPath, URL } from 'node:url'
import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'

// The pages are served by Django below /static/; in development Vite passes the API on to it.
export default defineConfig(({ command }) => ({
  plugins: [vue()],
  base: command === 'build' ? '/static/' : '/',
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  build: {
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 900,
    // What asks for the song is a file of its own, so that it runs before the libraries are evaluated.
    rollupOptions: { output: { manualChunks: (id) => (/\/src\/api\/(start|early)\.ts$/.test(id) ? 'early' : undefined) } },
  },
  // The time stretcher loads its own file into the audio thread; bundling it would break that.
  optimizeDeps: { exclude: ['signalsmith-stretch'] },
  server: { proxy: { '/api': 'http://127.0.0.1:8137' } },
  test: { environment: 'happy-dom', include: ['tests/**/*.test.ts'] },
}))
