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
import { queries } from './queries'
import { router } from './router'
import { vuetify } from './theme'
import { words } from './i18n'

createApp(App).use(createPinia()).use(router).use(vuetify).use(words).use(VueQueryPlugin, { queryClient: queries }).mount('#app')
