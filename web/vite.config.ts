import { fileURLToPath, URL } from 'node:url'

import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'
import vuetify from 'vite-plugin-vuetify'

import { texts } from './vite.texts.ts'

import type { Plugin } from 'vite'

/** What the first view of a study reaches without waiting for anything. */
const reached = new Set<string>()
const firstView: Plugin = {
  name: 'first-view',
  buildEnd() {
    const next = [...this.getModuleIds()].filter((id) => id.endsWith('/index.html'))
    for (let id = next.pop(); id !== undefined; id = next.pop()) {
      if (reached.has(id)) continue
      reached.add(id)
      next.push(...(this.getModuleInfo(id)?.importedIds ?? []))
    }
  },
}

/** Few files serve the first view sooner than many small ones, and a browser fetches no more than
 * six at a time: what asks for the figures, the libraries on which all stands, and the view. What
 * most places need of the component library comes after it. */
const groups = [
  { name: 'early', test: /src\/api\/early/, priority: 4 },
  { name: 'base', test: /preload-helper|rolldown\/runtime|node_modules\/(@vue|vue|vue-router|vue-i18n|@intlify|pinia|@tanstack)\//, priority: 3 },
  {
    name: 'library',
    test: /node_modules\/(@vuetify\/v0|vuetify\/lib\/(util|framework|icons|iconsets|locale|composables\/(?!nested|virtual|filter|validation|list-items|focusGroups|group\b|calendar)|directives\/ripple|components\/(VApp|VBtn|VIcon|VProgressCircular|VDefaultsProvider)\b))/,
    priority: 2,
  },
  { name: 'first', test: (id: string) => reached.has(id), priority: 1 },
]

/** Two libraries look into the whole of Vue for one function, by a name that no build can follow, so
 * that everything that Vue can do would be sent. They are given that function. */
const oneOfVue: Plugin = {
  name: 'one-of-vue',
  transform(code, id) {
    if (!/node_modules\/(vue-i18n|@vuetify\/v0)\//.test(id)) return null
    const whole = /import \* as Vue from ['"]vue['"];?/
    return whole.test(code) ? { code: code.replace(whole, `import { getCurrentInstance as ofVue } from 'vue'; const Vue = { getCurrentInstance: ofVue };`), map: null } : null
  },
}

export default defineConfig({
  plugins: [firstView, oneOfVue, texts, vue(), vuetify({ autoImport: true })],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  define: { __VUE_OPTIONS_API__: false, __VUE_I18N_FULL_INSTALL__: false, __VUE_I18N_LEGACY_API__: false, __INTLIFY_PROD_DEVTOOLS__: false, __INTLIFY_DROP_MESSAGE_COMPILER__: true },
  build: {
    outDir: 'dist',
    emptyOutDir: true,
    manifest: true,
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 900,
    modulePreload: { polyfill: false },
    rolldownOptions: { output: { codeSplitting: { groups } } },
  },
  server: { fs: { allow: ['..'] } },
})
