import { createVuetify } from 'vuetify'
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg'
import { createVueI18nAdapter } from 'vuetify/locale/adapters/vue-i18n'
import { useI18n } from 'vue-i18n'

import { colours } from './colours'
import { words } from './i18n'

import type { ThemeName } from './colours'

const stored = () => {
  try {
    return localStorage.getItem('theme')
  } catch {
    return null
  }
}

export function rememberTheme(name: ThemeName): void {
  try {
    localStorage.setItem('theme', name)
  } catch {
    // A browser that keeps nothing just starts with its own preference.
  }
}

function firstTheme(): ThemeName {
  const kept = stored()
  if (kept === 'paper' || kept === 'night') return kept
  return window.matchMedia('(prefers-color-scheme: dark)').matches ? 'night' : 'paper'
}

const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content ?? ''

/** The library's own names for our colours; the style sheet has each by our name. */
function theme(name: ThemeName) {
  const c = colours[name]
  return {
    dark: name === 'night',
    variables: c,
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

export const vuetify = createVuetify({
  locale: { adapter: createVueI18nAdapter({ i18n: words, useI18n }) },
  icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
  theme: {
    cspNonce: nonce,
    defaultTheme: firstTheme(),
    themes: { paper: theme('paper'), night: theme('night') },
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
