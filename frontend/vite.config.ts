import { fileURLToPath, URL } from 'node:url'
import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'

/** What asks for the song: a file of its own, so that it runs before the libraries are evaluated. */
const EARLY = /\/src\/api\/(start|early)\.ts$/
/** What an open song shows first, in one file: the stages that are loaded later share much of it. */
const FIRST = /\/src\/(song|score|signs|transport|engine|stages\/grooves)\/|\/primevue\/(select|checkbox|inputtext)\//
/** What every page rests on. */
const LIBRARY = /\/node_modules\/(vue|@vue|vue-router|@tanstack|@vueuse|@primevue|@primeuix|openapi-fetch)\/|\/src\/(api|session|base)\//
const LATER = /(BeatlessSong|HeardAgainDialog)\.vue/

function chunkOf(id: string): string | undefined {
  if (EARLY.test(id)) return 'early'
  if (LIBRARY.test(id)) return 'library'
  return FIRST.test(id) && !LATER.test(id) ? 'song' : undefined
}

// The pages are served by Django below /static/; in development Vite passes the API on to it.
export default defineConfig(({ command }) => ({
  plugins: [vue()],
  base: command === 'build' ? '/static/' : '/',
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  build: {
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 900,
    rollupOptions: { output: { manualChunks: chunkOf } },
  },
  // The time stretcher loads its own file into the audio thread; bundling it would break that.
  optimizeDeps: { exclude: ['signalsmith-stretch'] },
  server: { proxy: { '/api': 'http://127.0.0.1:8137' } },
  test: { environment: 'happy-dom', include: ['tests/**/*.test.ts'], testTimeout: 30_000 },
}))
