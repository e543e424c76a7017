import { watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { createVuetify } from 'vuetify'
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg'
import { createVueI18nAdapter } from 'vuetify/locale/adapters/vue-i18n'

import { colours } from './colours'
import { theme } from './theme'
import { words } from './words'

import type { ThemeName } from './colours'

const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content ?? ''

/** The library's own names for our colours. */
function named(name: ThemeName) {
  const c = colours[name]
  return {
    dark: name === 'night',
    colors: {
      background: c.paper,
      surface: c.sheet,
      primary: c.teal,
      error: c.rust,
      'on-background': c.ink,
      'on-surface': c.ink,
      'on-primary': c['on-teal'],
    },
  }
}

/** The component library, dressed as the application is. */
export const library = createVuetify({
  locale: { adapter: createVueI18nAdapter({ i18n: words, useI18n }) },
  icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
  theme: {
    cspNonce: nonce,
    defaultTheme: theme.value,
    themes: { paper: named('paper'), night: named('night') },
  },
  defaults: {
    VBtn: { variant: 'text', density: 'comfortable', rounded: 'sm', ripple: false },
    VTextField: { variant: 'underlined', density: 'compact', hideDetails: 'auto', color: 'primary' },
    VSelect: { variant: 'underlined', density: 'compact', hideDetails: 'auto', color: 'primary' },
    VTextarea: { variant: 'outlined', density: 'compact', hideDetails: 'auto', color: 'primary' },
    VAutocomplete: { variant: 'underlined', density: 'compact', hideDetails: true, color: 'primary' },
    VCheckboxBtn: { density: 'compact', color: 'primary' },
    VList: { density: 'compact' },
  },
})
watch(theme, (name) => library.theme.change(name))
