import vue from '@vitejs/plugin-vue'
import Icons from 'unplugin-icons/vite'
import Components from 'unplugin-vue-components/vite'
import { ElementPlusResolver } from 'unplugin-vue-components/resolvers'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  plugins: [
    vue(),
    Icons({ compiler: 'vue3' }),
    Components({
      dirs: [],
      dts: 'components.d.ts',
      resolvers: [ElementPlusResolver({ importStyle: process.env.VITEST ? false : 'css' })],
    }),
  ],
  build: { outDir: '../internal/webui/dist', emptyOutDir: true },
  server: { proxy: { '/api': 'http://127.0.0.1:8080' } },
  test: {
    // A busy machine is slow; no test depends on how slow.
    testTimeout: 60_000,
    environment: 'jsdom',
    alias: [
      { find: /^element-plus\/.*\/style\/css$/, replacement: new URL('./src/look/none.ts', import.meta.url).pathname },
    ],
  },
})
