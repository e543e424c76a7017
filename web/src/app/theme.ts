import { computed, ref, watchEffect } from 'vue'

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

const chosen = ref<ThemeName>(firstTheme())
const printing = ref(false)
window.addEventListener('beforeprint', () => (printing.value = true))
window.addEventListener('afterprint', () => (printing.value = false))

/** The theme that is on; what is printed is printed on paper. */
export const theme = computed<ThemeName>(() => (printing.value ? 'paper' : chosen.value))

export function switchTheme(): void {
  chosen.value = chosen.value === 'night' ? 'paper' : 'night'
  try {
    localStorage.setItem('theme', chosen.value)
  } catch {
    // A browser that keeps nothing just starts with its own preference.
  }
}

/** Every colour is a variable of the style sheet by its own name. */
watchEffect(() => {
  const variables = Object.entries(colours[theme.value]).map(([name, colour]) => `--${name}:${colour}`)
  document.documentElement.style.cssText = `color-scheme:${theme.value === 'night' ? 'dark' : 'light'};${variables.join(';')}`
})
