import { fileURLToPath, URL } from 'node:url'

import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'
import vuetify from 'vite-plugin-vuetify'

/** Few files serve the first view sooner than many small ones: the libraries on which all stands,
 * what of the component library every place needs, and what several places share. */
const groups = [
  { name: 'base', test: /node_modules\/(@vue|vue|vue-router|vue-i18n|@intlify|pinia|@tanstack)\//, priority: 3 },
  {
    name: 'frame',
    test: /node_modules\/(@vuetify\/v0|vuetify\/lib\/(util|framework|icons|iconsets|locale|composables\/(?!nested|virtual|filter|validation|list-items|focusGroups|group\b|calendar)|directives\/ripple|components\/(VApp|VBtn|VIcon|VProgressCircular|VDefaultsProvider)\b))/,
    priority: 2,
  },
  { name: 'shared', test: /\/src\/(app|api|components|composables)\//, minShareCount: 3, priority: 1 },
]

export default defineConfig({
  plugins: [vue(), vuetify({ autoImport: true })],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)), '@locales': fileURLToPath(new URL('../locales', import.meta.url)) } },
  define: { __VUE_I18N_FULL_INSTALL__: false, __VUE_I18N_LEGACY_API__: false, __INTLIFY_PROD_DEVTOOLS__: false },
  build: {
    outDir: 'dist',
    emptyOutDir: true,
    manifest: true,
    cssCodeSplit: false,
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 900,
    modulePreload: { polyfill: false },
    rolldownOptions: { output: { advancedChunks: { groups } } },
  },
  server: { fs: { allow: ['..'] } },
})
