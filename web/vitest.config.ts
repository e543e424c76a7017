import { fileURLToPath, URL } from 'node:url'

import { defineConfig } from 'vitest/config'

/** The modules that need neither a browser nor the server. */
export default defineConfig({
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  test: { include: ['src/**/*.test.ts'], environment: 'node', reporters: ['dot'] },
})
