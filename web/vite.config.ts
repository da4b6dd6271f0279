import vue from '@vitejs/plugin-vue'
import Components from 'unplugin-vue-components/vite'
import { ElementPlusResolver } from 'unplugin-vue-components/resolvers'
import { defineConfig } from 'vitest/config'
import { keptFiles } from './keptFiles.ts'

export default defineConfig({
  plugins: [
    vue(),
    keptFiles(),
    Components({
      dirs: [],
      dts: 'src/generated/components.d.ts',
      resolvers: [ElementPlusResolver({ importStyle: 'css' })],
    }),
  ],
  server: { proxy: { '/api': 'http://127.0.0.1:8420' } },
  // Its components bring styles that only a bundler can read.
  test: { server: { deps: { inline: ['element-plus'] } } },
  build: {
    target: 'es2022',
    chunkSizeWarningLimit: 700,
    rollupOptions: {
      input: { main: 'index.html', sw: 'src/sw.ts' },
      // The service worker stands at the root: it is asked for what lies below it.
      output: { entryFileNames: ({ name }) => (name === 'sw' ? 'sw.js' : 'assets/[name]-[hash].js') },
    },
  },
})
