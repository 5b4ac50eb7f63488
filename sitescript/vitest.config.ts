import { defineConfig } from 'vitest/config'

export default defineConfig({
  // What the build puts in; see build.mjs.
  define: { BASE_CSS: '""', CARD_CSS: '""' },
  test: {
    include: ['src/**/*.test.ts'],
    environment: 'jsdom',
    pool: 'threads',
    unstubGlobals: true,
    restoreMocks: true,
  },
})
