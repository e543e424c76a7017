import '@fontsource-variable/source-sans-3/wght.css'
import '@fontsource-variable/source-sans-3/wght-italic.css'
import '@fontsource-variable/source-serif-4/wght.css'
import '@fontsource-variable/source-serif-4/wght-italic.css'
import 'vuetify/styles/core'
import './theme.css'

import { VueQueryPlugin } from '@tanstack/vue-query'
import { createPinia } from 'pinia'
import { createApp } from 'vue'

import App from './App.vue'
import { later } from './later'
import { queries } from './queries'
import { router } from './router'
import { findOut } from './who'
import { words } from './words'

const app = createApp(App).use(later).use(createPinia()).use(router).use(words).use(VueQueryPlugin, { queryClient: queries })
void Promise.all([router.isReady().catch(() => null), findOut()]).then(() => app.mount('#app'))
