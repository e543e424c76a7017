import { createVuetify } from 'vuetify'
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg'

const stored = () => {
  try {
    return localStorage.getItem('theme')
  } catch {
    return null
  }
}

export type ThemeName = 'paper' | 'night'

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

export const vuetify = createVuetify({
  icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
  theme: {
    cspNonce: nonce,
    defaultTheme: firstTheme(),
    themes: {
      paper: { dark: false, colors: { background: '#faf6ee', surface: '#fffdf8', primary: '#0c5a5e', error: '#a8442a', 'on-background': '#20262b', 'on-surface': '#20262b', 'on-primary': '#ffffff' } },
      night: { dark: true, colors: { background: '#16191b', surface: '#1f2326', primary: '#77c2bc', error: '#e58f70', 'on-background': '#e9e4d8', 'on-surface': '#e9e4d8', 'on-primary': '#10201f' } },
    },
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
