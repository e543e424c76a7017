import { fileURLToPath, URL } from 'node:url'

import { defineConfig } from 'vite'

/** The charts for the server's own engine, which knows no modules and an older language. */
export default defineConfig({
  publicDir: false,
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  define: { 'process.env.NODE_ENV': '"production"' },
  build: {
    outDir: 'charts',
    emptyOutDir: false,
    target: 'es2017',
    lib: { entry: fileURLToPath(new URL('./src/charts/server.ts', import.meta.url)), formats: ['iife'], name: 'charts', fileName: () => 'charts.js' },
  },
})
