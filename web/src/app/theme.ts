import { ref, watchEffect } from 'vue'

import { colours } from './colours'

import type { ThemeName } from './colours'

const stored = () => {
  try {
    return localStorage.getItem('theme')
  } catch {
    return null
  }
}

function firstTheme(): ThemeName {
  const kept = stored()
  if (kept === 'paper' || kept === 'night') return kept
  return window.matchMedia('(prefers-color-scheme: dark)').matches ? 'night' : 'paper'
}

/** The theme that is on. */
export const theme = ref<ThemeName>(firstTheme())

export function switchTheme(): void {
  theme.value = theme.value === 'night' ? 'paper' : 'night'
  try {
    localStorage.setItem('theme', theme.value)
  } catch {
    // A browser that keeps nothing just starts with its own preference.
  }
}

/** Every colour is a variable of the style sheet by its own name. */
watchEffect(() => {
  const variables = Object.entries(colours[theme.value]).map(([name, colour]) => `--${name}:${colour}`)
  document.documentElement.style.cssText = `color-scheme:${theme.value === 'night' ? 'dark' : 'light'};${variables.join(';')}`
})
